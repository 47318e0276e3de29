export { BridgePage } from "./BridgePage";
