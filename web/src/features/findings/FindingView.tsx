import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { useLayout } from "../../api/registers";
import { count, nameOf } from "../../domain/format";
import { Button, CELL, Key, Pane, TextField } from "../../ui";
import type { Finding, FindingsPlan, State } from "./queries";

interface Props {
  slug: string;
  plan: FindingsPlan;
  own: string;
  finding: Finding;
  explaining: boolean;
  onExplain: (explaining: boolean) => void;
  onSay: (state: State, remark?: string) => void;
}

/** What two records share with how rare it is, and both records field by field. */
export function FindingView({ slug, plan, own, finding, explaining, onExplain, onSay }: Props) {
  return (
    <div className="flex min-h-0 flex-col">
      <Pane label="The finding" className="flex-1 px-4 py-3">
        {finding.again && <p className="mb-2 border-l-[3px] border-rust pl-2 text-sm">{finding.again}.</p>}
        {finding.said_by && (
          <p className="mb-2 text-sm">
            <strong className="font-semibold">{finding.state}</strong>{" "}
            <span className="text-soft">{finding.said_by}</span>
            {finding.remark && `: ${finding.remark}`}
          </p>
        )}
        <ul className="mb-3 space-y-1">
          {finding.things.map((thing) => (
            <li key={`${thing.title} ${thing.value}`} className="flex flex-wrap items-baseline gap-x-3">
              <span>
                They share the {thing.title} <strong className="font-mono font-semibold">{thing.value}</strong>
              </span>
              <span className="text-sm text-soft">
                {count(thing.one_holders)} of {own} and {count(thing.other_holders)} of {plan.other_name}{" "}
                {thing.one_holders + thing.other_holders === 2 ? "and nobody else hold it" : "hold it"},{" "}
                {thing.bits.toFixed(1)} bits
              </span>
            </li>
          ))}
        </ul>
        <Sides slug={slug} plan={plan} own={own} finding={finding} />
      </Pane>
      <div className="border-t border-line-strong bg-sunk px-4 py-2">
        {explaining ? (
          <Explain onLeave={() => onExplain(false)} onExplain={(reason) => onSay("explained", reason)} />
        ) : (
          <div className="flex flex-wrap gap-2">
            <Button needs="pair up" look="main" onClick={() => onSay("of interest")}>
              Of interest <Key>I</Key>
            </Button>
            <Button needs="pair up" look="main" onClick={() => onExplain(true)}>
              Explained… <Key>E</Key>
            </Button>
            <Button needs="pair up" onClick={() => onSay("not a finding")}>
              Not a finding <Key>N</Key>
            </Button>
            <Button needs="pair up" disabled={finding.state === "open"} onClick={() => onSay("open")}>
              Take back <Key>U</Key>
            </Button>
          </div>
        )}
      </div>
    </div>
  );
}

function Explain({ onLeave, onExplain }: { onLeave: () => void; onExplain: (reason: string) => void }) {
  const [reason, setReason] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (reason.trim()) onExplain(reason.trim());
  };
  return (
    <form onSubmit={submit} className="flex items-end gap-2">
      <div className="flex-1">
        <TextField
          label="What explains it? It is remembered for the next run."
          value={reason}
          maxLength={400}
          autoFocus
          onChange={(event) => setReason(event.target.value)}
        />
      </div>
      <Button onClick={onLeave}>Leave</Button>
      <Button type="submit" look="main" disabled={!reason.trim()}>
        Explained
      </Button>
    </form>
  );
}

function Sides({ slug, plan, own, finding }: Pick<Props, "slug" | "plan" | "own" | "finding">) {
  const one = useLayout(slug).data?.fields ?? [];
  const other = useLayout(plan.other).data?.fields ?? [];
  const labels = new Map(one.map(({ name, label }) => [name, label]));
  for (const { name, label } of other) if (!labels.has(name)) labels.set(name, label);
  const shown = [...labels].filter(([name]) => finding.one.values[name] || finding.other.values[name]);
  const shared = new Set(
    plan.plan.shared
      .filter(({ title }) => finding.things.some((thing) => thing.title === title))
      .flatMap((rule) => [rule.one, rule.other]),
  );
  const isShared = (name: string) => [...shared].some((field) => name === field || name.startsWith(`${field}.`));
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="text-left">
          <td className="w-36" />
          <SideHead slug={slug} register={own} of={finding.one} look="border-marine text-marine" />
          <SideHead slug={plan.other} register={plan.other_name} of={finding.other} look="border-rust text-rust" />
        </tr>
      </thead>
      <tbody>
        {shown.map(([name, label]) => (
          <tr key={name} className={isShared(name) ? "bg-plum-wash" : ""}>
            <th scope="row" className={`${CELL} text-left text-xs font-semibold text-soft`}>
              {label}
            </th>
            <td className={CELL}>{finding.one.values[name]}</td>
            <td className={CELL}>{finding.other.values[name]}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function SideHead({ slug, register, of, look }: { slug: string; register: string; of: Finding["one"]; look: string }) {
  const key = of.golden_key || `${of.source} ${of.source_key}`;
  return (
    <th scope="col" className={`border-b-2 px-2 py-1 font-semibold ${look}`}>
      {register}{" "}
      {of.golden_key ? (
        <Link to={`/r/${slug}/golden/${of.golden_key}`} className="font-mono font-normal hover:underline">
          {key}
        </Link>
      ) : (
        <span className="font-mono font-normal">{key}</span>
      )}
      {of.gone && <span className="font-normal"> (no longer there)</span>}
      <span className="sr-only">{nameOf(of.values)}</span>
    </th>
  );
}
