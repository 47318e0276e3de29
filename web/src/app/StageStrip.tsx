import { NavLink, useLocation, useNavigate } from "react-router";
import type { Register } from "../api/registers";
import { Choice, Menu, useRights } from "../ui";
import { STAGES, WAYS } from "./stages";

/** The line of work along the top: the chosen register and its stages, each with what waits there. */
export function StageStrip({ registers, register }: { registers: readonly Register[]; register: Register }) {
  const navigate = useNavigate();
  const { may } = useRights();
  return (
    <nav aria-label="Stages of the work" className="flex min-w-0 items-stretch gap-3">
      <div className="flex items-center">
        <Choice
          label="Register"
          value={register.slug}
          options={registers.map(({ slug, name }) => ({ value: slug, label: name }))}
          onChange={(slug) => navigate(`/r/${slug}/${may("see") ? "bring-in" : "golden"}`)}
          className="w-36"
        />
      </div>
      <ol className="flex items-stretch">
        {STAGES.filter(({ needs }) => may(needs)).map((stage, place) => {
          const waits = stage.waits(register);
          return (
            <li key={stage.path} className="flex items-stretch">
              {place > 0 && <span aria-hidden="true" className="w-4 self-center border-t border-line-strong" />}
              <NavLink
                to={`/r/${register.slug}/${stage.path}`}
                aria-label={`${stage.label}: ${waits.words}`}
                className={({ isActive }) =>
                  `flex flex-col justify-center border-b-[3px] px-2 leading-tight hover:bg-plum-wash ${
                    isActive ? "border-plum" : "border-transparent"
                  }`
                }
              >
                <span className="text-sm font-semibold">{stage.label}</span>
                <span className="text-xs text-soft">{waits.figure}</span>
              </NavLink>
            </li>
          );
        })}
      </ol>
      <OtherWays slug={register.slug} />
    </nav>
  );
}

/** What can be done with a register beside the line of work. */
function OtherWays({ slug }: { slug: string }) {
  const { pathname } = useLocation();
  const { may } = useRights();
  const ways = WAYS.filter(({ needs }) => may(needs));
  const here = WAYS.find(({ path }) => pathname.startsWith(`/r/${slug}/${path}`));
  return (
    <Menu
      entries={ways.map(({ path, label, hint }) => ({ label, hint, to: `/r/${slug}/${path}` }))}
      className={`border-b-[3px] border-l border-l-line px-3 text-sm hover:bg-plum-wash ${
        here ? "border-b-plum font-semibold" : "border-b-transparent"
      }`}
    >
      {here?.label ?? "Other ways"} ▾
    </Menu>
  );
}
