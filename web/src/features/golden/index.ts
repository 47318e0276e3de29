export { GoldenRecordPage } from "./GoldenRecordPage";
export { GoldenListPage } from "./list/GoldenListPage";
export { MergePage } from "./MergePage";
export { SurvivorshipPage } from "./rules/SurvivorshipPage";
