/** Edits are small: what of a thing has changed, and nothing else. */
import type { AskedFixing, Fixing, Operation, Step } from "./model";

const plain = (v: unknown): v is Record<string, unknown> =>
  typeof v === "object" && v !== null && !Array.isArray(v);
/** The things of a list that changed, by their number, where it has as many as before; else undefined. */
function changedItems(old: unknown, v: unknown): Record<string, unknown> | undefined {
  if (!Array.isArray(old) || !Array.isArray(v) || old.length !== v.length) return undefined;
  if (!old.every(plain) || !v.every(plain)) return undefined;
  const fields = v.map((item, i) => changedFields(old[i], item));
  return Object.fromEntries(fields.flatMap((f, i) => (Object.keys(f).length ? [[String(i), f]] : [])));
}

/** Only the fields in which a thing differs from what it was, nested ones and things of a list too; where a nested one lost a key, the whole of it. */
export function changedFields(before: object, after: object): Record<string, unknown> {
  const was = before as Record<string, unknown>,
    out: Record<string, unknown> = {};
  for (const [k, v] of Object.entries(after)) {
    if (v === undefined || JSON.stringify(v) === JSON.stringify(was[k])) continue;
    const old = was[k];
    out[k] =
      !plain(v) || !plain(old)
        ? (changedItems(old, v) ?? v)
        : Object.keys(old).every((x) => x in v)
          ? changedFields(old, v)
          : { "=": v };
  }
  return out;
}

type Thing = { id: string };
type ListChange<T> = {
  add: T[];
  change: { id: string; fields: Record<string, unknown> }[];
  drop: string[];
};
/** What a list of things with ids becomes, as what is added, changed field by field, and dropped: a command names nothing else. */
export function listChange<T extends Thing>(before: T[], after: T[]): ListChange<T> {
  const was = new Map(before.map((t) => [t.id, t]));
  const fields = (a: T, b: T) =>
    Object.fromEntries(
      Object.entries(b).filter(([k, v]) => JSON.stringify(v) !== JSON.stringify(a[k as keyof T])),
    );
  return {
    add: after.filter((t) => !was.has(t.id)),
    change: after.flatMap((t) => {
      const old = was.get(t.id),
        f = old ? fields(old, t) : {};
      return Object.keys(f).length ? [{ id: t.id, fields: f }] : [];
    }),
    drop: before.filter((t) => !after.some((n) => n.id === t.id)).map((t) => t.id),
  };
}
/** Steps as a command has them: of what the screen holds, the fields of its kind count. */
export const asSteps = (steps: Operation[]) => steps as Step[];
export const fixingsChange = (before: Fixing[], after: Fixing[]) =>
  listChange(before, after) as ListChange<AskedFixing>;
/** The same for steps, whose order matters. */
export function stepsChange(
  before: Operation[],
  after: Operation[],
): ListChange<Step> & { order?: string[] } {
  const c = listChange(asSteps(before), asSteps(after)),
    kept = before.filter((t) => !c.drop.includes(t.id)).map((t) => t.id),
    now = after.map((t) => t.id);
  return [...kept, ...c.add.map((t) => t.id)].join("|") === now.join("|") ? c : { ...c, order: now };
}
