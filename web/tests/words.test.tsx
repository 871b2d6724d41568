// @vitest-environment happy-dom
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";
import type { Schemas } from "../src/api/client";
import { useAfterWords, useWords } from "../src/changes/useWords";
import { draw, listen, sentTo, user, type Call } from "./server";

let calls: Call[];
let published: number;
const DRAFT = { version: 4, title: "Winter", reason: "" } as Schemas["DraftDetail"];

beforeEach(() => {
  calls = listen();
  published = 0;
});

function Draft() {
  const words = useWords("sky.example~1", DRAFT);
  const publish = useAfterWords(words);
  return (
    <>
      <input
        aria-label="Reason"
        value={words.reason}
        onChange={(event) => words.type({ reason: event.target.value })}
        onBlur={() => void words.flush().catch(() => undefined)}
      />
      <button onClick={() => publish.run(() => Promise.resolve(published++))}>Publish</button>
      <p>{publish.busy ? "Publishing …" : (publish.error?.message ?? "At rest")}</p>
    </>
  );
}

const reason = () => screen.getByLabelText<HTMLInputElement>("Reason");

test("publishing waits for the reason that was just typed", async () => {
  draw(<Draft />);
  await user.type(reason(), "agreed with the night crew");
  await user.click(screen.getByText("Publish"));
  const save = await sentTo(calls, "PATCH", "/draft");
  expect(save.body).toEqual({ version: 4, title: "Winter", reason: "agreed with the night crew" });
  expect(screen.getByText("Publishing …")).toBeTruthy();
  expect(published).toBe(0);
  save.answer({});
  await waitFor(() => expect(published).toBe(1));
  expect(calls.filter(({ method }) => method === "PATCH")).toHaveLength(1);
});

test("a reason that cannot be saved stops the publish and is kept", async () => {
  const { unmount } = draw(<Draft />);
  await user.type(reason(), "not to be lost");
  await user.click(screen.getByText("Publish"));
  // Leaving the field saves the reason, and so does the button.
  for (const count of [1, 2])
    (await sentTo(calls, "PATCH", "/draft", count)).answer({ message: "The disk is full." }, 507);
  await screen.findByText("The disk is full.");
  expect(published).toBe(0);
  unmount();
  draw(<Draft />);
  expect(reason().value).toBe("not to be lost");
});

test("what is typed on during the save is still to be saved", async () => {
  draw(<Draft />);
  await user.type(reason(), "agreed");
  await user.tab();
  const first = await sentTo(calls, "PATCH", "/draft");
  await user.type(reason(), " in May");
  first.answer({});
  await user.tab();
  const second = await sentTo(calls, "PATCH", "/draft", 2);
  expect(second.body).toMatchObject({ reason: "agreed in May" });
});
