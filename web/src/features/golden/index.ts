export { GoldenListPage } from "./GoldenListPage";
export { GoldenRecordPage } from "./GoldenRecordPage";
export { MergePage } from "./MergePage";
