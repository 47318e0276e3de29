export { EnterPage } from "./EnterPage";
