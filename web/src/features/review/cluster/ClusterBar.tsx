import { Button, Key } from "../../../ui";

interface Props {
  groups: number;
  records: number;
  onAccept: () => void;
  onApart: () => void;
  onLater: () => void;
  onPutOff: () => void;
  onlyDiffering: boolean;
  onDiffering: () => void;
  folded: boolean;
  onFold: () => void;
  links: boolean;
  onLinks: () => void;
  onAdd: () => void;
}

/** What can be said of the cluster, each with its key; what the buttons do follows the marks. */
export function ClusterBar(props: Props) {
  const { groups, records } = props;
  return (
    <div className="flex flex-wrap items-center gap-2 border-t border-line-strong bg-sunk px-4 py-2">
      <Button needs="decide" look="main" disabled={groups > 1 || records < 2} onClick={props.onAccept}>
        All {records} are the same <Key>S</Key>
      </Button>
      <Button needs="decide" look="main" disabled={records < 2} onClick={props.onApart}>
        {groups > 1 ? `Split into ${groups}` : "None are the same"} <Key>D</Key>
      </Button>
      <Button needs="decide" onClick={props.onLater}>
        Later <Key>L</Key>
      </Button>
      <Button needs="decide" onClick={props.onPutOff}>
        Until, ask <Key>W</Key>
      </Button>
      <Button needs="decide" onClick={props.onAdd}>
        Add <Key>+</Key>
      </Button>
      <Button aria-pressed={props.links} onClick={props.onLinks}>
        Links <Key>K</Key>
      </Button>
      <Button aria-pressed={!props.onlyDiffering} onClick={props.onDiffering}>
        {props.onlyDiffering ? "All fields" : "Differing only"} <Key>O</Key>
      </Button>
      <Button aria-pressed={props.folded} onClick={props.onFold}>
        {props.folded ? "Unfold alike" : "Fold alike"} <Key>H</Key>
      </Button>
    </div>
  );
}
