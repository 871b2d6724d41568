// @vitest-environment happy-dom
// Parts of screens before a server that answers when a test lets the server.
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";
import { TermsForm } from "../src/additions/TermsForm";
import type { Schemas } from "../src/api/client";
import { Home } from "../src/app/Home";
import { SignInForm } from "../src/app/SignInForm";
import { rememberDomain } from "../src/draft/place";
import { Tokens } from "../src/own/Tokens";
import { useAddress } from "../src/shared/useUrlState";
import { Removal } from "../src/sources/Removal";
import { draw, listen, sentTo, user, type Call } from "./server";

const DOMAINS = [
  { dns_name: "sky.example", rights: ["draft"] },
  { dns_name: "zenith.example", rights: [] },
];
let calls: Call[];

beforeEach(() => {
  calls = listen({
    "/tokens": [],
    "/session": { name: "ann", everywhere: ["see"] },
    "/domains": DOMAINS,
    "/house": { name: "house", digest: "one", count: 1, terms: ["dome"] },
  });
});

const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label);
const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });

test("a wrong password is said, and the next one takes its place", async () => {
  let name = "";
  draw(<SignInForm onSignedIn={(known) => (name = known)} />);
  await user.type(field("Name"), "ann");
  await user.type(field("Password"), "wrong{Enter}");
  const message = "Name or password is wrong.";
  (await sentTo(calls, "POST", "/session")).answer({ detail: message }, 401);
  await waitFor(() => expect(screen.getByRole("alert").textContent).toContain(message));
  await user.keyboard("correct horse{Enter}");
  const second = await sentTo(calls, "POST", "/session", 2);
  expect(second.body).toEqual({ name: "ann", password: "correct horse" });
  second.answer({ name: "ann" });
  await waitFor(() => expect(name).toBe("ann"));
});

test("a domain is taken out once the name and the reason are typed", async () => {
  draw(<Removal info={{ dns_name: "sky.example", version: 7 } as Schemas["DomainInfo"]} />);
  await user.click(button("Take sky.example out …"));
  expect(document.activeElement).toBe(field("Type its name to go on"));
  await user.keyboard("sky.exampl{Enter}");
  expect(button("Take it out").disabled).toBe(true);
  await user.keyboard("{Escape}");
  await user.click(button("Take sky.example out …"));
  await user.keyboard("sky.example{Enter}");
  expect(calls).toEqual([]);
  await user.type(field("Why"), "the domain is gone{Enter}");
  await waitFor(() => expect(calls).toHaveLength(1));
  expect(calls[0]?.method).toBe("DELETE");
  expect(calls[0]?.url.pathname).toMatch(/\/domains\/sky\.example$/);
  expect(calls[0]?.url.searchParams.get("version")).toBe("7");
});

test.each([
  ["ann", "/zenith.example/strata"],
  ["ben", "/sky.example/strata"],
])("signing in leads to the domain of the last visit, else to the first (%s)", async (name, to) => {
  rememberDomain("ann", "zenith.example~3");
  calls = listen({ "/session": { name, everywhere: [] }, "/domains": DOMAINS });
  draw(<Home />);
  await waitFor(() => expect(window.location.pathname).toBe(to));
});

test("two choices in one moment both count in the address", async () => {
  function Choices() {
    const [params, change] = useAddress();
    const both = () => {
      change({ way: "group" });
      change({ tie: "true" });
    };
    return <button onClick={both}>{[...params.keys()].join(" ") || "none"}</button>;
  }
  draw(<Choices />);
  await user.click(button("none"));
  expect(window.location.search).toBe("?way=group&tie=true");
});

test("a token is shown once", async () => {
  draw(<Tokens />);
  await user.type(await screen.findByLabelText("What the token is for"), "nightly export{Enter}");
  const made = await sentTo(calls, "POST", "/tokens");
  expect(made.body).toEqual({ title: "nightly export", domain: "*", rights: ["see"], days: 90 });
  const token = { id: 1, title: "nightly export", rights: ["see"], domain: "*", ended: false };
  made.answer({ text: "hft_1_secret", token: { ...token, ends_at: "2026-03-02T09:00:00Z" } });
  await screen.findByText("hft_1_secret");
  await user.click(button("I have it"));
  expect(screen.queryByText("hft_1_secret")).toBeNull();
  expect(field("What the token is for").value).toBe("");
});

test.each(["", "house"])(
  "a list that is typed on while the list is saved stays open and is saved again (%s)",
  async (name) => {
    let done = 0;
    draw(
      <TermsForm
        domain="sky.example~1"
        policy="domain"
        name={name}
        house={[]}
        onDone={() => done++}
      />,
    );
    const terms = await screen.findByLabelText<HTMLTextAreaElement>("Terms, one a line");
    await waitFor(() => expect(terms.matches(":disabled")).toBe(false));
    if (!name) await user.type(field("Name"), "house");
    await user.clear(terms);
    await user.type(terms, "orbit");
    const save = () => button("Save to draft");
    await user.click(save());
    const first = await sentTo(calls, "PUT", "/house");
    await user.type(terms, "{Enter}sextant");
    first.answer({ name: "house", digest: "two", count: 1 });
    await waitFor(() => expect(save().disabled).toBe(false));
    expect(terms.value).toBe("orbit\nsextant");
    expect(done).toBe(0);
    await user.click(save());
    const second = await sentTo(calls, "PUT", "/house", 2);
    expect(second.url.searchParams.get("seen")).toBe("two");
    second.answer({ name: "house", digest: "three", count: 2 });
    await waitFor(() => expect(done).toBe(1));
  },
);
