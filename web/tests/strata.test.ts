import { describe, expect, test } from "vitest";
import type { Schemas } from "../src/api/client";
import { hiddenIn, layOut, othersIn, prefixOf, shortened } from "../src/strata/columns";
import { narrow } from "../src/strata/narrow";

type Population = Schemas["Population"];

const population = (key: string, count: number, winner: string, ...reached: string[]) =>
  ({
    key,
    count,
    winner,
    who: `GS-${key}`,
    source: winner === "domain" ? "domain" : "group",
    cells: reached.map((guid) => ({ guid })),
  }) as unknown as Population;

const MANY = Array.from({ length: 40 }, (_, n) =>
  population(`P${n}`, 1 + ((n * 37) % 200), n % 5 ? `layer ${n % 5}` : "domain", `layer ${n % 5}`),
);

describe("columns", () => {
  test.each([200, 600, 832, 1_400, 5_000])("fit into %i px and stand side by side", (available) => {
    const laid = layOut(MANY, available, false, new Set());
    expect(laid.columns.length + laid.rest.length).toBe(MANY.length);
    let left = 0;
    for (const column of laid.columns) {
      expect(column.left).toBe(left);
      expect(column.width).toBeGreaterThanOrEqual(62);
      left += column.width;
    }
    expect(laid.restLeft).toBe(left);
    if (laid.columns.length > 1) expect(laid.width).toBeLessThanOrEqual(available);
  });

  test("all of them, if asked for, however wide", () => {
    const laid = layOut(MANY, 300, true, new Set());
    expect(laid.rest).toEqual([]);
    expect(laid.width).toBeGreaterThanOrEqual(40 * 62);
  });

  test("the chosen come first, and stay in the order of the layers", () => {
    const smallest = MANY.reduce((a, b) => (b.count < a.count ? b : a));
    const laid = layOut(MANY, 300, false, new Set([smallest.key]));
    const shown = laid.columns.map((c) => c.population);
    expect(shown).toContain(smallest);
    expect(shown).toEqual(MANY.filter((p) => shown.includes(p)));
  });

  test("accounts without a column are counted for each policy and for the domain policy", () => {
    const cells = [
      { guid: "a", holds: true },
      { guid: "b", holds: false },
    ];
    const rest = [
      { ...population("one", 9, "a"), cells },
      population("two", 4, "domain"),
    ] as unknown as Population[];
    const none = { governed: 0, reached: 0 };
    const layers = [
      { guid: "a", unlisted: { governed: 2, reached: 5 } },
      { guid: "b", unlisted: none },
      { guid: "c", unlisted: none },
    ] as Schemas["Layer"][];
    expect([...hiddenIn(rest, layers)]).toEqual([
      ["a", { governed: 11, reached: 14 }],
      ["b", { governed: 0, reached: 9 }],
      ["c", none],
    ]);
    const unlisted = { populations: 3, accounts: 20, under_domain_policy: 6 };
    expect(othersIn(rest, unlisted)).toEqual({ accounts: 33, underDomainPolicy: 10 });
  });

  test("what all names begin with is left out, and only that", () => {
    expect(prefixOf(MANY)).toBe("GS-");
    expect(prefixOf(MANY.slice(0, 2))).toBe("");
    expect(prefixOf([...MANY, { ...MANY[0], who: "Night crew" } as Population])).toBe("");
    expect(shortened("GS-Night + GS-Day", "GS-")).toBe("Night + Day");
    expect(shortened("GS-Night", "")).toBe("GS-Night");
  });
});

describe("narrowing", () => {
  const strata = {
    layers: [
      { guid: "a", name: "Night operators", precedence: 30 },
      { guid: "b", name: "Kiosk floor", precedence: 40 },
      { guid: "c", name: "Nobody", precedence: 3 },
    ],
    populations: [
      population("one", 5, "a", "a", "b"),
      population("two", 5, "b", "b"),
      population("rest", 9, "domain"),
    ],
  } as unknown as Schemas["Strata"];
  const names = (found: Schemas["Strata"]) => [
    found.layers.map((l) => l.guid).join(""),
    found.populations.map((p) => p.key).join(" "),
  ];

  test.each([
    ["", "", "abc", "one two rest"],
    ["NIGHT", "", "a", "one"],
    ["30", "", "a", "one"],
    ["3", "", "c", ""],
    ["zzz", "", "", ""],
    ["", "b", "ab", "one two"],
    ["", "c", "c", ""],
    ["", "domain", "", "rest"],
    ["kiosk", "a", "b", "one"],
  ])("words “%s”, focus “%s”", (words, focus, layers, populations) => {
    expect(names(narrow(strata, words, focus))).toEqual([layers, populations]);
  });

  test("nothing asked for is the same object", () => {
    expect(narrow(strata, "", "")).toBe(strata);
  });
});
