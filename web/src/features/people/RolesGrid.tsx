import type { Register } from "../../api/registers";
import { type Role, useWho } from "../../api/who";
import { CELL, HEAD } from "../../ui";
import type { RoleGiven } from "./queries";

interface Props {
  registers: readonly Register[];
  given: readonly RoleGiven[];
  onChange: (given: RoleGiven[]) => void;
}

const same = (one: RoleGiven, slug: string | null, role: Role) => one.slug === slug && one.role === role;

/** Which roles a person has: a row per register, one for all of them first. */
export function RolesGrid({ registers, given, onChange }: Props) {
  const roles = useWho().data?.roles ?? [];
  const rows = [
    { slug: null, name: "Every register, also those to come" },
    ...registers.map(({ slug, name }) => ({ slug, name })),
  ];
  return (
    <div className="max-h-[50vh] overflow-auto">
      <table className="w-full text-sm">
        <thead>
          <tr>
            <th scope="col" className={HEAD}>
              In
            </th>
            {roles.map(({ role, says }) => (
              <th key={role} scope="col" className={`${HEAD} text-center!`} title={says}>
                {role}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ slug, name }) => (
            <tr key={name}>
              <th scope="row" className={`${CELL} text-left font-medium`}>
                {name}
              </th>
              {roles.map(({ role }) => {
                const everywhere = slug !== null && given.some((one) => same(one, null, role));
                return (
                  <td key={role} className={`${CELL} text-center`}>
                    <input
                      type="checkbox"
                      className="size-4 accent-plum"
                      aria-label={`${role}: ${name}`}
                      checked={everywhere || given.some((one) => same(one, slug, role))}
                      disabled={everywhere}
                      onChange={(event) =>
                        onChange(
                          event.target.checked
                            ? [...given, { slug, role }]
                            : given.filter((one) => !same(one, slug, role)),
                        )
                      }
                    />
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
