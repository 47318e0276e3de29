import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { layout } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { PersonalPart } from "./PersonalPart";

const BASE = "/api/registers/customers";

it("marks fields as personal, from the version that was seen", async () => {
  const asked = serve({
    [`GET ${BASE}/layout`]: layout,
    [`GET ${BASE}/personal-fields`]: { fields: ["name"], version: 6 },
    [`PUT ${BASE}/personal-fields`]: { fields: [], version: 7 },
  });
  show(<PersonalPart slug="customers" />);
  await userEvent.click(await screen.findByText("Personal fields (1)"));
  const set = screen.getByRole("button", { name: "Set which are personal" });
  expect(set).toHaveProperty("disabled", true);
  const [name, ...others] = layout.fields;
  await userEvent.click(screen.getByRole("checkbox", { name: name?.label ?? "" }));
  for (const { label } of others.slice(0, 1)) await userEvent.click(screen.getByRole("checkbox", { name: label }));
  await userEvent.click(set);
  await waitFor(() =>
    expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
      seen_version: 6,
      fields: others.slice(0, 1).map((field) => field.name),
    }),
  );
});
