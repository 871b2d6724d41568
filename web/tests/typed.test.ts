import { expect, test } from "vitest";
import type { Rule } from "../src/api/additions";
import { orNone, placeOf, withoutRule, withRule, type Working } from "../src/additions/editing";
import { begun } from "../src/additions/kinds";
import { refusalsOf } from "../src/kit/form/refusals";
import { ApiError } from "../src/api/client";
import { toggled } from "../src/kit/Check";
import { mailingOf, typedOf as typedMailing } from "../src/mailing/typed";
import { orderOf, typedOf as typedOrder } from "../src/reports/typed";
import { connectionOf, START, typedOf as typedConnection } from "../src/sources/connection";
import { serversOf, serversText } from "../src/sources/servers";

const length = (min: number): Rule => ({ length: { min } }) as Rule;
const empty = { password: null, phrase: null, bands: [] };
const working = (was: Rule | null): Working => ({
  path: "password",
  was,
  typed: begun("length"),
  begun: 1,
});

test("a rule is changed where the rule stands by now, and added where the rule is gone", () => {
  const rules = { ...empty, password: [length(1), length(2)] };
  expect(placeOf(rules, working(length(2)))).toBe(1);
  expect(withRule(rules, working(length(2)), length(9)).password).toEqual([length(1), length(9)]);
  const without = withoutRule(rules, "password", 1);
  expect(withRule(without, working(length(2)), length(9)).password).toEqual([length(1), length(9)]);
  expect(rules.password).toHaveLength(2);
});

test("an addition without the last rule is no addition", () => {
  const left = withoutRule({ ...empty, password: [length(1)] }, "password", 0);
  expect(left.password).toBeNull();
  expect(orNone(left)).toBeNull();
});

test("refusals are found by any name in their path", () => {
  const fields = [
    { field: "mailing.by_policy.{guid}", message: "There is no such policy any more." },
    { field: "settings.min_length", message: "Too long." },
    { field: "mailing.days.0", message: "Between 1 and 365." },
  ];
  const found = refusalsOf(new ApiError(422, "", fields), ["mailing"]);
  expect(found.of("by_policy")).toBe("There is no such policy any more.");
  expect(found.of("days")).toBe("Between 1 and 365.");
  expect(found.of("page", "min_length")).toBe("Too long.");
  expect(found.of("zone")).toBeUndefined();
  expect(found.byField.min_length).toBe("Too long.");
  expect(found.byField.days).toBe("Between 1 and 365.");
  expect(found.whole?.message).toBe("Min length: Too long.");
});

test("a refusal without fields is of the whole; a conflict is none", () => {
  const whole = new ApiError(403, "You may not.");
  expect(refusalsOf(whole, []).whole).toBe(whole);
  const conflict = new ApiError(409, "", [], { message: "Changed.", current: {} });
  expect(refusalsOf(conflict, [])).toMatchObject({ byField: {}, whole: null });
  expect(refusalsOf(null, []).whole).toBeNull();
});

test("a connection that is typed and read again is the same", () => {
  const connection = connectionOf({
    ...START,
    servers: "dc1.sky.example:636 10.0.0.1\ndc2.sky.example",
    writes: true,
    writer: { name: "w@sky.example", secret: "w" },
    trust: "pinned",
    pinned: "ab",
    every: "15",
  });
  expect(connectionOf(typedConnection(connection))).toEqual(connection);
});

test("what does not hold is not sent along", () => {
  const typed = { ...START, trust: "machine" as const, pinned: "ab", stage: "OU=Stage" };
  expect(connectionOf(typed)).toMatchObject({ pinned: "", writer: null, stage: "", every: null });
});

test("servers are read a line each, with port and address", () => {
  const servers = serversOf(" dc1:3269 10.0.0.1 \n\ndc2\n");
  expect(servers).toEqual([
    { host: "dc1", port: 3269, address: "10.0.0.1" },
    { host: "dc2", port: null, address: "" },
  ]);
  expect(serversOf(serversText(servers))).toEqual(servers);
});

test("days are numbers in any writing; no number is left for the server to refuse", () => {
  const mailing = {
    on: true,
    kinds: [],
    days: [14, 3],
    by_policy: { p: [7] },
    quiet_from: "20:00",
    quiet_until: "07:00",
    zone: "UTC",
    page: "",
  };
  expect(mailingOf(typedMailing(mailing, 1))).toEqual(mailing);
  expect(mailingOf({ ...typedMailing(mailing, 1), days: "14; 3 x" }).days).toEqual([14, 3, 0]);
});

test("addresses of a report stand a line each; a day that is no number is 0", () => {
  const order = {
    on: true,
    to: ["a@x.example", "b@x.example"],
    every: "week" as const,
    day: 1,
    at: "07:00",
    zone: "UTC",
    baselines: [],
  };
  expect(orderOf(typedOrder(order, 3))).toEqual(order);
  expect(orderOf({ ...typedOrder(order, 3), day: "x" }).day).toBe(0);
});

test("a value is chosen once and left out whole", () => {
  expect(toggled(["a"], "b", true)).toEqual(["a", "b"]);
  expect(toggled(["a", "b"], "a", false)).toEqual(["b"]);
});
