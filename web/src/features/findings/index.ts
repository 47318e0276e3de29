export { FindingsPage } from "./FindingsPage";
export { PlansPage } from "./PlansPage";
export { ReportPage } from "./ReportPage";
