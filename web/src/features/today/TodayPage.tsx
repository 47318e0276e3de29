import { useState } from "react";
import { Link } from "react-router";
import { type Register, useRegisters } from "../../api/registers";
import { useMayIn } from "../../api/who";
import { counted } from "../../domain/format";
import { Button, CELL, Empty, Faces, HEAD, Page, Pane } from "../../ui";
import { LatelyRan } from "./LatelyRan";
import { NewRegister } from "./NewRegister";
import { useToday } from "./queries";
import { CallsForYou, DoubtsByKind } from "./Waits";

/** The next thing to do in a register, in the order of the work; for who only looks up and enters, that. */
function nextStep({ counts, run_due, slug }: Register, sees: boolean): { text: string; to: string } {
  const at = (path: string) => `/r/${slug}/${path}`;
  if (!sees) return { text: "Enter a record", to: at("enter") };
  if (counts.drafts > 0)
    return { text: `Check ${counted(counts.drafts, "delivery", "deliveries")}`, to: at("bring-in") };
  if (counts.records === 0) return { text: "Bring in the first delivery", to: at("bring-in") };
  if (run_due.length > 0) return { text: `Run the match: ${run_due[0]}`, to: at("plan") };
  if (counts.unsure_waiting > 0) return { text: `Review ${counted(counts.unsure_waiting, "doubt")}`, to: at("review") };
  if (counts.records_without_golden > 0)
    return {
      text: `Merge ${counted(counts.records_without_golden, "record")} into golden records`,
      to: at("golden/merge"),
    };
  return { text: "Send out golden records", to: at("send-out") };
}

function Row({ register }: { register: Register }) {
  const sees = useMayIn()(register.slug, "see");
  const next = nextStep(register, sees);
  const { counts } = register;
  return (
    <tr>
      <th scope="row" className={`${CELL} text-left font-semibold`}>
        <Link to={`/r/${register.slug}/${sees ? "bring-in" : "golden"}`} className="text-plum hover:underline">
          {register.name}
        </Link>
      </th>
      <td className={CELL}>{register.kind === "person" ? "people" : "organisations"}</td>
      <td className={`${CELL} text-right`}>{counts.records}</td>
      <td className={`${CELL} text-right`}>{counts.unsure_waiting}</td>
      <td className={`${CELL} text-right`}>{counts.put_off}</td>
      <td className={`${CELL} text-right`}>{counts.golden}</td>
      <td className={CELL}>
        <Link to={next.to} className="font-medium text-plum hover:underline">
          {next.text} →
        </Link>
      </td>
    </tr>
  );
}

/** What waits in each register. */
export function TodayPage() {
  const registers = useRegisters();
  const today = useToday().data;
  const [making, setMaking] = useState(false);
  return (
    <Page
      title="What waits for you"
      actions={
        <Button needs="set up" everywhere onClick={() => setMaking(true)}>
          Make a register
        </Button>
      }
    >
      <Faces query={registers}>
        {(list) =>
          list.length === 0 ? (
            <Empty title="There is no register yet.">
              <p>A register holds the golden records of one kind: customers, suppliers, boat owners.</p>
              <Button needs="set up" everywhere look="main" onClick={() => setMaking(true)}>
                Make the first register
              </Button>
            </Empty>
          ) : (
            <Pane label="Registers" className="h-full px-4 py-2">
              <table className="w-full text-sm">
                <thead>
                  <tr>
                    {["Register", "Of", "Records", "In doubt", "Put off", "Golden records", "Next"].map(
                      (title, place) => (
                        <th key={title} scope="col" className={`${HEAD} ${place > 1 && place < 6 ? "text-right" : ""}`}>
                          {title}
                        </th>
                      ),
                    )}
                  </tr>
                </thead>
                <tbody>
                  {list.map((register) => (
                    <Row key={register.slug} register={register} />
                  ))}
                </tbody>
              </table>
              {today && <CallsForYou today={today} />}
              {today && <DoubtsByKind today={today} />}
              <LatelyRan registers={list} />
            </Pane>
          )
        }
      </Faces>
      {making && <NewRegister onClose={() => setMaking(false)} />}
    </Page>
  );
}
