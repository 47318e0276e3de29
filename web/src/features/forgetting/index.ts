export { ForgetPage } from "./ForgetPage";
