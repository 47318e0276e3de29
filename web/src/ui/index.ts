export { Button, Key, LinkButton } from "./Button";
export { Choice, type Option } from "./Choice";
export { Search, TextArea, TextField } from "./Fields";
export { type KeyBinding, useKeys, useShownKeys } from "./keys";
export { Modal } from "./Modal";
export { CELL, HEAD, Heads, Page, Pane } from "./Page";
export { Paging } from "./Paging";
export { Empty, Faces, Loading, Trouble } from "./States";
export { notify, Toasts } from "./toast";
