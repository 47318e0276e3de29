import { useState } from "react";
import { Button, Faces, LinkButton, Page, Pane } from "../../ui";
import { PeopleTable } from "./PeopleTable";
import { AddPersonDialog } from "./PersonDialog";
import { usePeople } from "./queries";

/** Who has an account, with which roles. */
export function PeoplePage() {
  const [adding, setAdding] = useState(false);
  return (
    <Page
      title="People"
      about="Who has an account, and what they are in which register."
      actions={
        <>
          <LinkButton to="/rights">Who may do what</LinkButton>
          <Button look="main" needs="govern" everywhere onClick={() => setAdding(true)}>
            Add a person…
          </Button>
        </>
      }
    >
      <Pane label="People" className="h-full px-4 py-3">
        <Faces query={usePeople()}>{(people) => <PeopleTable people={people} />}</Faces>
      </Pane>
      {adding && <AddPersonDialog onClose={() => setAdding(false)} />}
    </Page>
  );
}
