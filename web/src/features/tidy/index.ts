export { ProfilePage } from "./ProfilePage";
export { StepsPage } from "./StepsPage";
export { TablesPage } from "./TablesPage";
export { TidyPage } from "./TidyPage";
