import { createBrowserRouter } from "react-router";
import { BridgePage } from "../features/bridge";
import { ListPage, ListsPage } from "../features/counterparts";
import { BringInPage, MappingPage, OutcomesPage, RejectedPage } from "../features/deliveries";
import { EnterPage } from "../features/entering";
import { FindingsPage, PlansPage, ReportPage } from "../features/findings";
import { ForgetPage } from "../features/forgetting";
import { GoldenListPage, GoldenRecordPage, MergePage, SurvivorshipPage } from "../features/golden";
import { JournalPage, WhyPage } from "../features/journal";
import { AccountPage, PeoplePage, RightsPage, WelcomePage } from "../features/people";
import { PlanPage } from "../features/plan";
import { RecordsPage, ReviewPage } from "../features/review";
import { SendOutPage } from "../features/sendout";
import { SignOffPage } from "../features/signoff";
import { ProfilePage, ReferencesPage, RulesPage, StepsPage, TablesPage, TidyPage } from "../features/tidy";
import { TodayPage } from "../features/today";
import { ToldPage } from "../features/told";
import { UnattendedPage } from "../features/unattended";
import { WatchPage } from "../features/watch";
import { Frame } from "./Frame";
import { Gate } from "./Gate";
import { Lost } from "./Lost";

/** Every state has an address of its own, so that a colleague can be sent a link to it. */
export const router = createBrowserRouter([
  { path: "/welcome", element: <WelcomePage />, errorElement: <Lost /> },
  {
    path: "/",
    element: (
      <Gate>
        <Frame />
      </Gate>
    ),
    errorElement: <Lost />,
    children: [
      { index: true, element: <TodayPage /> },
      { path: "r/:slug/bring-in", element: <BringInPage /> },
      { path: "r/:slug/bring-in/unattended", element: <UnattendedPage /> },
      { path: "r/:slug/bring-in/:deliveryId", element: <MappingPage /> },
      { path: "r/:slug/bring-in/:deliveryId/rejected", element: <RejectedPage /> },
      { path: "r/:slug/bring-in/:deliveryId/outcomes", element: <OutcomesPage /> },
      { path: "r/:slug/tidy", element: <TidyPage /> },
      { path: "r/:slug/tidy/profile", element: <ProfilePage /> },
      { path: "r/:slug/tidy/references", element: <ReferencesPage /> },
      { path: "r/:slug/tidy/rules", element: <RulesPage /> },
      { path: "r/:slug/tidy/steps", element: <StepsPage /> },
      { path: "r/:slug/tidy/tables", element: <TablesPage /> },
      { path: "r/:slug/tidy/tables/:table", element: <TablesPage /> },
      { path: "r/:slug/plan", element: <PlanPage /> },
      { path: "r/:slug/review", element: <ReviewPage /> },
      { path: "r/:slug/review/records", element: <RecordsPage /> },
      { path: "r/:slug/review/cluster/:cluster", element: <ReviewPage /> },
      { path: "r/:slug/review/:leftId/:rightId", element: <ReviewPage /> },
      { path: "r/:slug/golden", element: <GoldenListPage /> },
      { path: "r/:slug/golden/merge", element: <MergePage /> },
      { path: "r/:slug/golden/rules", element: <SurvivorshipPage /> },
      { path: "r/:slug/golden/:goldenKey", element: <GoldenRecordPage /> },
      { path: "r/:slug/send-out", element: <SendOutPage /> },
      { path: "r/:slug/send-out/told", element: <ToldPage /> },
      { path: "r/:slug/counterparts", element: <ListsPage /> },
      { path: "r/:slug/counterparts/:list", element: <ListPage /> },
      { path: "r/:slug/findings", element: <PlansPage /> },
      { path: "r/:slug/findings/:plan", element: <FindingsPage /> },
      { path: "r/:slug/findings/:plan/report", element: <ReportPage /> },
      { path: "r/:slug/enter", element: <EnterPage /> },
      { path: "r/:slug/bridge", element: <BridgePage /> },
      { path: "r/:slug/journal", element: <JournalPage /> },
      { path: "r/:slug/why", element: <WhyPage /> },
      { path: "r/:slug/watch", element: <WatchPage /> },
      { path: "r/:slug/forget", element: <ForgetPage /> },
      { path: "r/:slug/sign-off", element: <SignOffPage /> },
      { path: "people", element: <PeoplePage /> },
      { path: "rights", element: <RightsPage /> },
      { path: "account", element: <AccountPage /> },
      { path: "*", element: <Lost /> },
    ],
  },
]);
