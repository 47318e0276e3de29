export { JournalPage } from "./JournalPage";
export { WhyPage } from "./WhyPage";
