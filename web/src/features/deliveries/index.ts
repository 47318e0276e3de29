export { BringInPage } from "./BringInPage";
export { MappingPage } from "./MappingPage";
export { RejectedPage } from "./RejectedPage";
