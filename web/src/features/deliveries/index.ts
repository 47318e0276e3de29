export { BringInPage } from "./BringInPage";
export { MappingPage } from "./MappingPage";
export { OutcomesPage } from "./OutcomesPage";
export { RejectedPage } from "./RejectedPage";
