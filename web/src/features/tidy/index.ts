export { TidyPage } from "./TidyPage";
