export { ProfilePage } from "./ProfilePage";
export { ReferencesPage } from "./ReferencesPage";
export { RulesPage } from "./RulesPage";
export { StepsPage } from "./StepsPage";
export { TablesPage } from "./TablesPage";
export { TidyPage } from "./TidyPage";
