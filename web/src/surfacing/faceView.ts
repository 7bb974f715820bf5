import { type Bench, type BenchView } from "../api/model";
import { type Face } from "./tab";

/** The board as it lies for a face: the second has passes, fixings and snags of its own. */
export function seenFrom(view: BenchView, face: Face): BenchView {
  const s = view.second;
  if (face === 1 || !s) return view;
  return {
    ...view,
    bench: s.bench,
    layers: s.layers,
    skipped: [],
    cut_length: s.cut_length,
    seconds: s.seconds,
    travel: s.travel,
    deepest: s.deepest,
    uncut: s.uncut,
    choices: s.choices,
    worth: s.worth,
    ways: s.ways,
    snags: s.snags,
    flatness: null,
  };
}

/** Of a thing as it is wished, the fields in which it differs. */
const differing = <T extends object>(was: T, wished: T) =>
  Object.fromEntries(
    Object.entries(wished).filter(([k, v]) => JSON.stringify(v) !== JSON.stringify(was[k as keyof T])),
  ) as Partial<T>;

/** A change made while a face is looked at, as a change of the board: how the second is cut and held is its own. */
export function changeOf(view: BenchView, face: Face, f: Partial<Bench>): Partial<Bench> {
  const second = view.bench.second,
    lies = view.second?.bench;
  if (face === 1 || !second || !lies) return f;
  const { how, board, ...rest } = f;
  const { dead, held, ...ofBoard }: Partial<Bench["board"]> = board ? differing(lies.board, board) : {};
  return {
    ...rest,
    ...(Object.keys(ofBoard).length ? { board: { ...view.bench.board, ...ofBoard } } : {}),
    second: {
      ...second,
      ...(dead ? { dead } : {}),
      ...(held !== undefined ? { held } : {}),
      ...(how ? { how: { ...second.how, ...differing(lies.how, how) } } : {}),
      ...(f.second ?? {}),
    },
  };
}
