import { Key, Modal, useShownKeys } from "../ui";

const NAMES: Record<string, string> = { ArrowDown: "↓", ArrowUp: "↑", ArrowLeft: "←", ArrowRight: "→", Enter: "Enter" };

/** The keys of the present screen. */
export function KeysHelp({ onClose }: { onClose: () => void }) {
  const bindings = useShownKeys();
  const everywhere = [
    { key: "Ctrl K", label: "Go to a screen, a register, an action" },
    { key: "?", label: "Show these keys" },
    { key: "Esc", label: "Close what is open" },
  ];
  return (
    <Modal title="Keys of this screen" onClose={onClose}>
      <dl className="grid grid-cols-[auto_1fr] items-baseline gap-x-4 gap-y-1.5 text-sm">
        {[...bindings, ...everywhere].map(({ key, label }) => (
          <div key={key + label} className="contents">
            <dt>
              <Key>{NAMES[key] ?? key.toUpperCase()}</Key>
            </dt>
            <dd>{label}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
