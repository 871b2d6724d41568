import { expect, test } from "vitest";
import { serversOf, serversText } from "../src/sources/servers";

test("servers are read one a line, with port and address where they are given", () => {
  expect(serversOf(" dc1.example \n\ndc2.example:636\ndc3.example  10.0.0.5\nfe:x 1")).toEqual([
    { host: "dc1.example", port: null, address: "" },
    { host: "dc2.example", port: 636, address: "" },
    { host: "dc3.example", port: null, address: "10.0.0.5" },
    { host: "fe:x", port: null, address: "1" },
  ]);
  expect(serversOf(" \n ")).toEqual([]);
});

test("servers that are written are read as they were", () => {
  const text = "dc1.example\ndc2.example:636 10.0.0.5\ndc3.example 10.0.0.6";
  expect(serversText(serversOf(text))).toBe(text);
});
