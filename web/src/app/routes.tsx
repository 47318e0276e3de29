import type { ComponentType } from "react";
import { createBrowserRouter } from "react-router";
import { Frame } from "./Frame";
import { Gate } from "./Gate";
import { Lost } from "./Lost";

const bridge = () => import("../features/bridge");
const counterparts = () => import("../features/counterparts");
const deliveries = () => import("../features/deliveries");
const entering = () => import("../features/entering");
const findings = () => import("../features/findings");
const forgetting = () => import("../features/forgetting");
const golden = () => import("../features/golden");
const journal = () => import("../features/journal");
const people = () => import("../features/people");
const plan = () => import("../features/plan");
const review = () => import("../features/review");
const sendout = () => import("../features/sendout");
const signoff = () => import("../features/signoff");
const tidy = () => import("../features/tidy");
const today = () => import("../features/today");
const told = () => import("../features/told");
const unattended = () => import("../features/unattended");
const watch = () => import("../features/watch");

/** A page that is fetched when somebody goes there: nobody waits for the plan editor before the first page. */
function page<Name extends string>(feature: () => Promise<Record<Name, ComponentType>>, name: Name) {
  return async () => ({ Component: (await feature())[name] });
}

/** Every state has an address of its own, so that a colleague can be sent a link to it. */
export const router = createBrowserRouter([
  { path: "/welcome", lazy: page(people, "WelcomePage"), errorElement: <Lost /> },
  {
    path: "/",
    element: (
      <Gate>
        <Frame />
      </Gate>
    ),
    errorElement: <Lost />,
    // While the first page is fetched there is nothing to show; it comes from the same server as this one.
    hydrateFallbackElement: <></>,
    children: [
      { index: true, lazy: page(today, "TodayPage") },
      { path: "r/:slug/bring-in", lazy: page(deliveries, "BringInPage") },
      { path: "r/:slug/bring-in/unattended", lazy: page(unattended, "UnattendedPage") },
      { path: "r/:slug/bring-in/:deliveryId", lazy: page(deliveries, "MappingPage") },
      { path: "r/:slug/bring-in/:deliveryId/rejected", lazy: page(deliveries, "RejectedPage") },
      { path: "r/:slug/bring-in/:deliveryId/outcomes", lazy: page(deliveries, "OutcomesPage") },
      { path: "r/:slug/tidy", lazy: page(tidy, "TidyPage") },
      { path: "r/:slug/tidy/profile", lazy: page(tidy, "ProfilePage") },
      { path: "r/:slug/tidy/references", lazy: page(tidy, "ReferencesPage") },
      { path: "r/:slug/tidy/rules", lazy: page(tidy, "RulesPage") },
      { path: "r/:slug/tidy/steps", lazy: page(tidy, "StepsPage") },
      { path: "r/:slug/tidy/tables", lazy: page(tidy, "TablesPage") },
      { path: "r/:slug/tidy/tables/:table", lazy: page(tidy, "TablesPage") },
      { path: "r/:slug/plan", lazy: page(plan, "PlanPage") },
      { path: "r/:slug/review", lazy: page(review, "ReviewPage") },
      { path: "r/:slug/review/records", lazy: page(review, "RecordsPage") },
      { path: "r/:slug/review/cluster/:cluster", lazy: page(review, "ReviewPage") },
      { path: "r/:slug/review/:leftId/:rightId", lazy: page(review, "ReviewPage") },
      { path: "r/:slug/golden", lazy: page(golden, "GoldenListPage") },
      { path: "r/:slug/golden/merge", lazy: page(golden, "MergePage") },
      { path: "r/:slug/golden/rules", lazy: page(golden, "SurvivorshipPage") },
      { path: "r/:slug/golden/:goldenKey", lazy: page(golden, "GoldenRecordPage") },
      { path: "r/:slug/send-out", lazy: page(sendout, "SendOutPage") },
      { path: "r/:slug/send-out/told", lazy: page(told, "ToldPage") },
      { path: "r/:slug/counterparts", lazy: page(counterparts, "ListsPage") },
      { path: "r/:slug/counterparts/:list", lazy: page(counterparts, "ListPage") },
      { path: "r/:slug/findings", lazy: page(findings, "PlansPage") },
      { path: "r/:slug/findings/:plan", lazy: page(findings, "FindingsPage") },
      { path: "r/:slug/findings/:plan/report", lazy: page(findings, "ReportPage") },
      { path: "r/:slug/enter", lazy: page(entering, "EnterPage") },
      { path: "r/:slug/bridge", lazy: page(bridge, "BridgePage") },
      { path: "r/:slug/journal", lazy: page(journal, "JournalPage") },
      { path: "r/:slug/why", lazy: page(journal, "WhyPage") },
      { path: "r/:slug/watch", lazy: page(watch, "WatchPage") },
      { path: "r/:slug/forget", lazy: page(forgetting, "ForgetPage") },
      { path: "r/:slug/sign-off", lazy: page(signoff, "SignOffPage") },
      { path: "people", lazy: page(people, "PeoplePage") },
      { path: "rights", lazy: page(people, "RightsPage") },
      { path: "account", lazy: page(people, "AccountPage") },
      { path: "*", element: <Lost /> },
    ],
  },
]);
