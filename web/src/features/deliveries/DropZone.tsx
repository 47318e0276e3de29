import { type DragEvent, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { Button, notify } from "../../ui";
import { QueryDialog } from "./QueryDialog";
import { useUpload } from "./queries";

/** Drop one file or several; a single one opens its mapping at once. */
export function DropZone({ slug }: { slug: string }) {
  const [over, setOver] = useState(false);
  const [asking, setAsking] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const upload = useUpload(slug);
  const navigate = useNavigate();

  const take = async (files: readonly File[]) => {
    for (const file of files) {
      try {
        const preview = await upload.mutateAsync(file);
        if (files.length === 1) navigate(`/r/${slug}/bring-in/${preview.delivery.id}`);
      } catch (error) {
        notify(error instanceof Error ? error.message : String(error), true);
      }
    }
  };
  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void take([...event.dataTransfer.files]);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a short cut; the button inside does the same
    <div
      data-testid="drop-zone"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={onDrop}
      className={`rounded-[4px] border-2 border-dashed p-5 text-center ${over ? "border-plum bg-plum-wash" : "border-line-strong"}`}
    >
      <p className="font-semibold">{upload.isPending ? "Receiving…" : "Drop files here"}</p>
      <p className="mt-1 mb-3 text-sm text-soft">
        CSV of any dialect, XLSX, ODS, JSON, JSON Lines, Parquet or vCard. The file's name names its source.
      </p>
      <input
        ref={input}
        type="file"
        multiple
        className="sr-only"
        tabIndex={-1}
        aria-label="Files to bring in"
        onChange={(event) => {
          void take([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <Button needs="bring in" look="main" disabled={upload.isPending} onClick={() => input.current?.click()}>
        Choose files
      </Button>
      <Button needs="bring in" look="quiet" className="mt-1" onClick={() => setAsking(true)}>
        or ask a database…
      </Button>
      {asking && <QueryDialog slug={slug} onClose={() => setAsking(false)} />}
    </div>
  );
}
