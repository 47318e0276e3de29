import { Button } from "./Button";

/** Turns the pages of a list; a page is named by the row that it begins behind, so that lists of any length open at once. */
export function Paging({
  page,
  onTurn,
}: {
  page: { before: string; behind: string } | undefined;
  onTurn: (cursor: string) => void;
}) {
  return (
    <>
      <Button disabled={!page?.before} onClick={() => onTurn(page?.before ?? "")}>
        Earlier
      </Button>
      <Button disabled={!page?.behind} onClick={() => onTurn(page?.behind ?? "")}>
        Further
      </Button>
    </>
  );
}
