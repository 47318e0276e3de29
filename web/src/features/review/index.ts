export { RecordsPage } from "./cluster/RecordsPage";
export { ReviewPage } from "./ReviewPage";
