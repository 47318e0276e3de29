import { useWho } from "../../api/who";
import { rolesInWords } from "../../domain/people";
import { Empty, Page, Pane } from "../../ui";
import { BrowsersPart } from "./BrowsersPart";
import { PasswordPart } from "./PasswordPart";
import { TokensPart } from "./TokensPart";

/** One's own account: what one is, where one is signed in, the password, tokens for programs. */
export function AccountPage() {
  const who = useWho().data;
  if (!who) return null;
  if (!who.signs_in)
    return (
      <Empty alone title="Nobody signs in here.">
        <p>Whoever uses this machine may do everything. Started with ODD_PAIR_SIGN_IN=on, people have accounts.</p>
      </Empty>
    );
  const given = who.registers.flatMap(({ slug, roles }) => roles.map((role) => ({ slug, role })));
  return (
    <Page title={who.name} about={rolesInWords(given).join("; ") || "without a role yet"}>
      <Pane label="Account" className="h-full space-y-8 px-4 py-4">
        <BrowsersPart />
        <TokensPart />
        <PasswordPart />
      </Pane>
    </Page>
  );
}
