import { expect, test } from "vitest";

import { cases } from "../tests/cases";
import { asSteps, changedFields, listChange, stepsChange } from "./changes";
import { heldTag, wholeJob } from "./held";
import type { Job, Operation } from "./model";

const plain = ({ tag: _t, rest: _r, ...job }: Job) => job;

test("what changed, put to what is held, is the whole answer", () => {
  for (const { given, full } of cases.answers) {
    const whole = wholeJob(structuredClone(given));
    expect(whole && plain(whole)).toEqual(plain(full));
    expect(heldTag(full.id)).toBe(given.tag);
  }
  expect(cases.answers.some((a) => a.given.rest)).toBe(true);
});

test("what rests on an answer that is gone cannot be put together", () => {
  const [, changed] = cases.answers;
  const orphan = structuredClone(changed.given);
  orphan.rest!.since = "gone";
  expect(wholeJob(orphan)).toBeNull();
});

test("a thing that did not change is the very same thing, so that nothing is drawn anew", () => {
  const before = wholeJob(structuredClone(cases.answers[0].given))!;
  const after = wholeJob(structuredClone(cases.answers[1].given))!;
  expect(after.parts[0]).toBe(before.parts[0]);
});

test("a command names the fields that changed and nothing else", () => {
  const was = { id: "a", feed: 3000, tabs: { count: 4, width: 6 }, note: "x" };
  expect(changedFields(was, { ...was, feed: 2500, tabs: { count: 5, width: 6 } })).toEqual({
    feed: 2500,
    tabs: { count: 5 },
  });
  expect(changedFields(was, { ...was })).toEqual({});
  const places = {
    dead: [
      { x: 1, what: "clamp" },
      { x: 2, what: "stop" },
    ],
  };
  expect(changedFields(places, { dead: [places.dead[0], { x: 2, what: "cam" }] })).toEqual({
    dead: { "1": { what: "cam" } },
  });
  expect(changedFields(places, { dead: [places.dead[0]] })).toEqual({ dead: [places.dead[0]] });
  const lost = changedFields({ a: { x: 1, y: 2 } }, { a: { x: 1 } });
  expect(lost).toEqual({ a: { "=": { x: 1 } } });
});

test("lists become what is added, changed and dropped; the order is named only where it changed", () => {
  const step = (id: string, feed: number) => ({ id, feed }) as Operation;
  const [a, b, c] = [step("a", 1), step("b", 2), step("c", 3)];
  expect(listChange([a, b], [a, { ...b, feed: 5 }, c])).toEqual({
    add: [c],
    change: [{ id: "b", fields: { feed: 5 } }],
    drop: [],
  });
  expect(stepsChange([a, b], [a])).toEqual({ add: [], change: [], drop: ["b"] });
  expect(stepsChange([a, b], [b, a]).order).toEqual(["b", "a"]);
  expect(asSteps([a])).toHaveLength(1);
});
