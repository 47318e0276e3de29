export { SendOutPage } from "./SendOutPage";
