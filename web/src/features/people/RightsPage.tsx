import { useWho } from "../../api/who";
import { CELL, HEAD, Page, Pane } from "../../ui";

/** Who may do what: the table by which the server decides, as it stands. */
export function RightsPage() {
  const who = useWho().data;
  if (!who) return null;
  const mine = new Set(who.registers.flatMap(({ roles }) => roles));
  return (
    <Page title="Who may do what" about="A person's roles may differ from register to register; several add up.">
      <Pane label="Who may do what" className="h-full px-4 py-3">
        <table className="text-sm">
          <thead>
            <tr>
              <th scope="col" className={HEAD}>
                May
              </th>
              {who.roles.map(({ role, says }) => (
                <th key={role} scope="col" className={`${HEAD} w-24 text-center!`} title={says}>
                  {role}
                  {mine.has(role) && <span className="block font-normal text-plum">you</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {who.acts.map(({ act, says, roles }) => (
              <tr key={act}>
                <th scope="row" className={`${CELL} pr-8 text-left font-normal`}>
                  {says}
                </th>
                {who.roles.map(({ role }) => (
                  <td key={role} className={`${CELL} text-center ${mine.has(role) ? "bg-plum-wash" : ""}`}>
                    {roles.includes(role) ? "yes" : <span className="text-soft">·</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <dl className="mt-6 grid max-w-3xl grid-cols-[6rem_1fr] gap-y-1 text-sm">
          {who.roles.map(({ role, says }) => (
            <div key={role} className="contents">
              <dt className="font-medium">{role}</dt>
              <dd className="text-soft">{says}</dd>
            </div>
          ))}
        </dl>
      </Pane>
    </Page>
  );
}
