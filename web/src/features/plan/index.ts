export { PlanPage } from "./PlanPage";
