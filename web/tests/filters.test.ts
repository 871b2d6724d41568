import { expect, test } from "vitest";
import { askedIn, containerText, FILTERS, queryOf, said } from "../src/accounts/filters";

const asked = (address: string) => askedIn(new URLSearchParams(address));

test("filters of the address reach the server, each flag by itself and nothing empty", () => {
  const query = queryOf(asked("policy=1&flag=disabled,,never_expires&q=%20&odd=2"), "name", false);
  expect([...query]).toEqual([
    ["policy", "1"],
    ["flag", "disabled"],
    ["flag", "never_expires"],
  ]);
  expect(queryOf(asked(""), "expires", true).toString()).toBe("order=expires&descending=true");
});

test("each filter without a field of its own is a part of the sentence", () => {
  const values: Record<string, [value: string, sentence: string]> = {
    population: ["k", "in the population Night operators"],
    group: ["GS-Night", "in GS-Night"],
    way: ["account", "getting it by a link of their own"],
    tie: ["true", "decided by a tie"],
    locked: ["false", "not locked"],
    expiry: ["never", "whose password never expires"],
    within: ["9", "whose password expires within 9 d"],
    set_before: ["2026-03-02T00:00:00Z", "whose password was set before 2 Mar 2026"],
    enabled: ["false", "disabled"],
    privileged: ["true", "who are administrators"],
    flag: ["disabled,never_expires", "flagged disabled and password never expires"],
    container: ["OU=Summit,OU=People,DC=sky,DC=example", "in People › Summit"],
  };
  for (const key of FILTERS) {
    const [value, sentence] = values[key] ?? [key, key];
    expect(said(key, value, "Night operators")).toBe(sentence);
  }
  expect(said("population", "k", undefined)).toBe("in the population that is gone");
});

test("a container is named from the top, with its commas, and a domain by its whole name", () => {
  expect(containerText("OU=Crew\\, night,OU=People,DC=sky")).toBe("People › Crew\\, night");
  expect(containerText("DC=sky,DC=example")).toBe("DC=sky,DC=example");
});
