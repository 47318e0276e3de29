import { useState } from "react";
import { Button, Modal } from "../../../ui";
import type { Column } from "./columns";

interface Props {
  all: readonly Column[];
  shown: readonly string[];
  onChange: (columns: string[]) => void;
  onClose: () => void;
}

/** Which columns the list shows, and in which order. */
export function ColumnsDialog({ all, shown, onChange, onClose }: Props) {
  const [chosen, setChosen] = useState<readonly string[]>(shown);
  const labels = new Map(all.map(({ name, label }) => [name, label]));
  const move = (place: number, by: number) => {
    const next = [...chosen];
    next.splice(place + by, 0, ...next.splice(place, 1));
    setChosen(next);
  };
  const rest = all.filter(({ name }) => !chosen.includes(name));
  return (
    <Modal title="Columns of the list" onClose={onClose}>
      <div className="grid max-h-[55vh] grid-cols-2 gap-6 overflow-auto text-sm">
        <section aria-label="Shown">
          <h3 className="mb-1 font-semibold">Shown</h3>
          <ol>
            {chosen.map((name, place) => (
              <li key={name} className="flex items-center border-b border-line">
                <span className="min-w-0 flex-1 truncate">{labels.get(name) ?? name}</span>
                <Button
                  look="quiet"
                  aria-label={`${labels.get(name)}: further up`}
                  disabled={place === 0}
                  onClick={() => move(place, -1)}
                >
                  ↑
                </Button>
                <Button
                  look="quiet"
                  aria-label={`${labels.get(name)}: further down`}
                  disabled={place === chosen.length - 1}
                  onClick={() => move(place, 1)}
                >
                  ↓
                </Button>
                <Button
                  look="quiet"
                  aria-label={`${labels.get(name)}: hide`}
                  disabled={chosen.length === 1}
                  onClick={() => setChosen(chosen.filter((other) => other !== name))}
                >
                  ×
                </Button>
              </li>
            ))}
          </ol>
        </section>
        <section aria-label="Not shown">
          <h3 className="mb-1 font-semibold">Not shown</h3>
          <ul>
            {rest.map(({ name, label }) => (
              <li key={name} className="border-b border-line">
                <Button look="quiet" onClick={() => setChosen([...chosen, name])}>
                  {label}
                </Button>
              </li>
            ))}
          </ul>
        </section>
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button
          onClick={() => {
            onChange([]);
            onClose();
          }}
        >
          The usual columns
        </Button>
        <Button
          look="main"
          onClick={() => {
            onChange([...chosen]);
            onClose();
          }}
        >
          Show these
        </Button>
      </div>
    </Modal>
  );
}
