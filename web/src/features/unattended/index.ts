export { UnattendedPage } from "./UnattendedPage";
