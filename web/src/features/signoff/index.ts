export { SignOffPage } from "./SignOffPage";
