export { AccountPage } from "./AccountPage";
export { PeoplePage } from "./PeoplePage";
export { RightsPage } from "./RightsPage";
export { SignInPage } from "./SignInPage";
export { WelcomePage } from "./WelcomePage";
