export { GoldenRecordPage } from "./GoldenRecordPage";
export { Filters as GoldenFilters } from "./list/Filters";
export { GoldenListPage } from "./list/GoldenListPage";
export { MergePage } from "./MergePage";
export { SurvivorshipPage } from "./rules/SurvivorshipPage";
