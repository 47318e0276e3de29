export { ToldPage } from "./ToldPage";
