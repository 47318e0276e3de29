export { ProfilePage } from "./profile/ProfilePage";
export { TidyPage } from "./records/TidyPage";
export { ReferencesPage } from "./references/ReferencesPage";
export { RulesPage } from "./rules/RulesPage";
export { StepsPage } from "./steps/StepsPage";
export { TablesPage } from "./tables/TablesPage";
