// @vitest-environment happy-dom
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";
import { Finder } from "../src/shared/Finder";
import { draw, listen, user, type Call } from "./server";

let calls: Call[];
let picked: string[];

beforeEach(() => {
  calls = listen();
  picked = [];
  draw(
    <Finder
      domain="sky.example"
      label="Group"
      placeholder="A group"
      onPick={({ name }) => picked.push(name)}
    />,
  );
});

const field = () => screen.getByRole<HTMLInputElement>("combobox");
const hit = (name: string) => ({ kind: "group", dn: `CN=${name}`, name, detail: "", mark: null });
const asked = (text: string) => calls.find(({ url }) => url.searchParams.get("q") === text);
async function answer(text: string, ...names: string[]) {
  await waitFor(() => expect(asked(text)).toBeDefined());
  asked(text)?.answer({ hits: names.map(hit), more: 0 });
}

test("the arrows choose, and Enter takes the chosen hit once", async () => {
  await user.type(field(), "GS");
  await answer("GS", "GS-Crew", "GS-Keyholders");
  await screen.findByText("GS-Keyholders");
  await user.keyboard("{ArrowDown}{Enter}");
  expect(picked).toEqual(["GS-Keyholders"]);
  expect(field().value).toBe("");
});

test("Enter before the answer takes the best hit of the text as it stands", async () => {
  await user.type(field(), "K");
  await answer("K", "Keyholders");
  await screen.findByText("Keyholders");
  await user.type(field(), "iosk{ArrowDown}{Enter}");
  expect(picked).toEqual([]);
  expect(screen.getByText("Searching for “Kiosk” …")).toBeTruthy();
  await answer("Kiosk", "Kiosk floor", "Kiosk roof");
  await waitFor(() => expect(picked).toEqual(["Kiosk floor"]));
});

test("Enter before the answer takes nothing where nothing is named like the text", async () => {
  await user.type(field(), "zzz{Enter}");
  await answer("zzz");
  expect(await screen.findByText("Nothing is named like “zzz”.")).toBeTruthy();
  expect(picked).toEqual([]);
  expect(field().value).toBe("zzz");
});

test("Enter is forgotten when the text changes before the answer", async () => {
  await user.type(field(), "Ki{Enter}");
  await user.type(field(), "o");
  await answer("Ki", "Kiosk floor");
  await answer("Kio", "Kiosk floor");
  await screen.findByText("Kiosk floor");
  expect(picked).toEqual([]);
});

test("a search that fails says so", async () => {
  await user.type(field(), "GS");
  await waitFor(() => expect(asked("GS")).toBeDefined());
  asked("GS")?.answer({ detail: "No." }, 404);
  expect(await screen.findByText("The search failed; try again.")).toBeTruthy();
});

test("Escape empties the field and takes nothing", async () => {
  await user.type(field(), "GS");
  await answer("GS", "GS-Crew");
  await screen.findByText("GS-Crew");
  await user.keyboard("{Escape}");
  expect(field().value).toBe("");
  expect(picked).toEqual([]);
});
