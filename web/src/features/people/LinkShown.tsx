import { Button, Modal } from "../../ui";

/** A secret that was just made, shown this once. */
export function SecretShown({
  title,
  says,
  secret,
  onClose,
}: {
  title: string;
  says: string;
  secret: string;
  onClose: () => void;
}) {
  return (
    <Modal title={title} onClose={onClose}>
      <p className="text-sm">{says} It is shown this once.</p>
      <p className="my-3 rounded-[3px] bg-sunk p-2 font-mono text-sm break-all select-all">{secret}</p>
      <div className="flex justify-end">
        <Button look="main" onClick={onClose}>
          It is noted
        </Button>
      </div>
    </Modal>
  );
}

export function LinkShown({ name, link, onClose }: { name: string; link: string; onClose: () => void }) {
  return (
    <SecretShown
      title={`The link for ${name}`}
      says={`With this link ${name} chooses a password, once, within three days. Give it to nobody else.`}
      secret={link}
      onClose={onClose}
    />
  );
}
