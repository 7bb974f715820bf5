import { expect, test } from "vitest";

import { cases } from "../tests/cases";
import { inUnit } from "./Tokens";
import { bare, length, plainNumber, quantity } from "./lengths";

test("texts are read in inches as papers and programs have them", () => {
  for (const { text, in: inches } of cases.spoken) expect(inUnit(text, "in")).toBe(inches);
  for (const { text } of cases.spoken) expect(inUnit(text, "mm")).toBe(text);
});

test("a length is written as the core writes it", () => {
  for (const { mm, shown } of cases.lengths) expect([length(mm, "mm"), length(mm, "in")]).toEqual(shown);
});

test("no more digits than mean something, and no idle zeros", () => {
  expect([bare(0.762, "in"), bare(19.05, "in"), bare(2440, "in")]).toEqual(["0.03", "0.75", "96.063"]);
  expect([bare(17.6, "mm"), bare(-0.001, "mm"), bare(1219.999, "mm")]).toEqual(["17.6", "0", "1220"]);
  expect(quantity(5080, "feed", "in")).toBe("200 in/min");
});

test("numbers as people write them", () => {
  expect(["18,000", "0,5", "18 000", "60 %", "1.5"].map(plainNumber)).toEqual([18000, 0.5, 18000, 60, 1.5]);
  expect(["", "deep", "1.2.3"].map(plainNumber)).toEqual([NaN, NaN, NaN]);
});
