export { ListPage } from "./ListPage";
export { ListsPage } from "./ListsPage";
