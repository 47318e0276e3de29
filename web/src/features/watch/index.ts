export { WatchPage } from "./WatchPage";
