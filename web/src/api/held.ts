import type { Job } from "./model";

/** Answers about a job that are held, newest last: a request names the newest, and the server answers with what changed since. */
const MOST = 6;
const held = new Map<string, Job[]>();

export const heldTag = (job: string) => held.get(job)?.at(-1)?.tag ?? "";

/** Only while the page lives; what is held of jobs that were left is let go. */
function hold(answer: Job) {
  const others = (held.get(answer.id) ?? []).filter((a) => a.tag !== answer.tag);
  held.delete(answer.id);
  held.set(answer.id, [...others, answer].slice(-MOST));
  for (const id of [...held.keys()].slice(0, -3)) held.delete(id);
}

/** A list as its names say: what came, and the rest as it was. */
function ordered<T>(names: string[] | undefined, came: T[], was: T[], name: (t: T) => string): T[] {
  if (!names) return came;
  const things = new Map([...was, ...came].map((t) => [name(t), t]));
  return names.flatMap((n) => things.get(n) ?? []);
}
function named<T>(
  names: string[] | undefined,
  came: Record<string, T>,
  was: Record<string, T> | undefined,
): Record<string, T> {
  return names ? Object.fromEntries(names.map((n) => [n, came[n] ?? was?.[n]] as [string, T])) : came;
}

/** The whole answer: what it left out is taken from the one that was held when it was asked for; null where that one is gone. */
export function wholeJob(answer: Job): Job | null {
  const { rest } = answer;
  const before = rest ? held.get(answer.id)?.find((a) => a.tag === rest.since) : undefined;
  if (rest && !before) return null;
  const full = rest && before ? filled(answer, before, rest.names) : answer;
  hold(full);
  return full;
}

function filled(answer: Job, before: Job, names: Record<string, string[]>): Job {
  const setups = answer.setups.map((s) => {
    const was = before.setups.find((x) => x.id === s.id);
    return {
      ...s,
      pieces: ordered(names[`${s.id}/pieces`], s.pieces, was?.pieces ?? [], (p) => p.id),
      sheets: ordered(names[`${s.id}/sheets`], s.sheets, was?.sheets ?? [], (x) => `${x.sheet}/${x.copy_no}`),
      contours: named(names[`${s.id}/contours`], s.contours, was?.contours),
      paths: Object.fromEntries(
        Object.entries(s.paths).map(([stock, paths]) => [
          stock,
          named(names[`${s.id}/paths/${stock}`], paths, was?.paths[stock]),
        ]),
      ),
    };
  });
  return {
    ...answer,
    rest: null,
    parts: ordered(names.parts, answer.parts, before.parts, (p) => p.id),
    setups,
  };
}
