import { expect, test } from "vitest";

import { asked } from "./edits";
import type { Command } from "./model";

const named: Command = { kind: "change-steps", setup: "main", on: "outlines" };

test("an edit that names its fields is made on the newest revision that is known", () => {
  expect(asked(named, 4, 9)).toEqual({ path: "commands", base: 9 });
  expect(asked({ kind: "rename-job", name: "n" }, 4, 9).base).toBe(9);
});

test("one that puts a whole list in place of the one that was seen is made on what was seen", () => {
  const tabs: Command = { kind: "set-contour", part: "p", contour: "outline", tabs: [[1, 2]] };
  expect(asked(tabs, 4, 9).base).toBe(4);
  expect(asked({ kind: "set-contour", part: "p", contour: "outline", tab_count: 3 }, 4, 9).base).toBe(9);
  expect(asked({ kind: "set-order", setup: "main", moved_cuts: [] }, 4, 9).base).toBe(4);
});

test("what needs the drawing or the geometry is asked, not commanded", () => {
  const kinds = ["read-again", "alter-part", "find-place", "move-cut", "remake"] as const;
  expect(kinds.map((kind) => asked({ kind } as Command, 1, 2))).toEqual(
    kinds.map(() => ({ path: "asks", base: 2 })),
  );
});
