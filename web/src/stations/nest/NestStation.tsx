import type { Edits } from "../../api/edits";
import { placeOf, type Job, type Kept, type NestState, type Setup } from "../../api/model";
import { Snags } from "../../shared/Snags";
import { length, useUnit } from "../../shared/lengths";
import { mirroredPiece, nextTurn, turned } from "../../table/TableView";

type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  selected: string | null;
  nest: NestState | null;
  seconds: number;
  setSeconds: (s: number) => void;
  swap: string | null;
  setSwap: (id: string | null) => void;
  watch: boolean;
  setWatch: (on: boolean) => void;
  onNest: (afresh?: boolean) => void;
  onStop: () => void;
  onSelect: (id: string | null) => void;
  show: (sheet: string, copy: number) => void;
  at: [string, number];
};
const STATE = {
  none: "not nested",
  fits: "fits",
  adrift: "adrift: inputs changed since",
  broken: "broken: not legal as it lies",
};

const TIMES: [number, string][] = [
  [8, "8 s"],
  [30, "30 s"],
  [120, "2 min"],
  [600, "10 min"],
];

export function NestDocket({
  job,
  setup,
  edits,
  selected,
  nest,
  seconds,
  setSeconds,
  swap,
  setSwap,
  watch,
  setWatch,
  onNest,
  onStop,
  onSelect,
  show,
  at,
}: Props) {
  const { unit } = useUnit();
  const running = nest?.state === "running" || nest?.state === "waiting";
  const piece = setup.pieces.find((p) => p.id === selected),
    part = piece && job.parts.find((p) => p.id === piece.part);
  const y = setup.yields,
    sheets = y.sheets.length;
  const move = (fields: Record<string, unknown>) =>
    piece &&
    edits.run({
      kind: "move-piece",
      setup: setup.id,
      part: piece.part,
      copy_no: piece.copy_no,
      x: piece.x,
      y: piece.y,
      rotation: piece.rotation,
      mirrored: piece.mirrored,
      sheet: piece.sheet,
      sheet_copy: piece.sheet_copy,
      ...fields,
    });
  const unplaced = Object.entries(setup.layout.unplaced);
  const wishes = [
    ...(setup.same_layouts ? ["same layouts"] : []),
    ...(setup.guillotine ? ["edge to edge"] : []),
    ...(setup.allow_in_holes ? [] : ["nothing in holes"]),
  ];
  const rows = setup.layout.same
    .map((k) => ({
      ...k,
      first: y.sheets.findIndex((s) => s.sheet === k.sheet && s.copy_no === k.copies[0]),
    }))
    .filter((k) => k.first >= 0)
    .sort((a, b) => a.first - b.first);
  const here = setup.pieces.filter((p) => p.sheet === at[0] && p.sheet_copy === at[1]),
    unlocked = here.filter((p) => !p.locked);
  const lockAll = (locked: boolean) =>
    edits.run({ kind: "lock-pieces", setup: setup.id, sheet: at[0], sheet_copy: at[1], locked });
  return (
    <>
      <h2 className="text-[20px] font-semibold">
        Layout: <span data-testid="layout-state">{STATE[setup.layout.state]}</span>
      </h2>
      <p className="label">
        {length(setup.spacing, unit, 1)} between pieces: cutter{" "}
        {length(setup.spacing - setup.rules.web, unit, 1)} + web {length(setup.rules.web, unit, 1)}
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        {running ? (
          <button className="key-strong" onClick={onStop}>
            Stop, keep the best
          </button>
        ) : (
          <button className="key-strong" onClick={() => onNest()}>
            {setup.pieces.some((p) => p.locked)
              ? "Nest around the locked"
              : setup.layout.state === "fits"
                ? "Search on"
                : setup.pieces.length
                  ? "Nest again"
                  : "Nest the pieces"}{" "}
            <kbd className="num ml-1 opacity-75">N</kbd>
          </button>
        )}
        {!running && setup.pieces.length > 0 && (
          <button className="key" onClick={() => onNest(true)}>
            Start afresh
          </button>
        )}
      </div>
      <div
        className="mt-2 flex flex-wrap items-center gap-1.5 text-[13.5px]"
        role="group"
        aria-label="Time for the search"
      >
        <span className="label">search for</span>
        {TIMES.map(([t, text]) => (
          <button
            key={t}
            className={`${seconds === t ? "key-strong" : "key"} !py-0`}
            aria-pressed={seconds === t}
            disabled={running}
            onClick={() => setSeconds(t)}
          >
            {text}
          </button>
        ))}
      </div>
      {running && (
        <div className="mt-2 flex gap-1.5 text-[13.5px]" role="group" aria-label="What the table shows">
          <button
            className={`${watch ? "key-strong" : "key"} !py-0`}
            aria-pressed={watch}
            onClick={() => setWatch(true)}
          >
            The search, live
          </button>
          <button
            className={`${watch ? "key" : "key-strong"} !py-0`}
            aria-pressed={!watch}
            onClick={() => setWatch(false)}
          >
            The layout in the plan
          </button>
        </div>
      )}
      <details className="mt-1">
        <summary className="label cursor-pointer">
          {wishes.length ? `Wishes: ${wishes.join(", ")}` : "Wishes for the layout"}
        </summary>
        <div className="mt-1 grid gap-1 text-[13.5px]">
          {(
            [
              ["allow_in_holes", "pieces may lie in the holes of others", setup.allow_in_holes],
              [
                "same_layouts",
                "the same layout on several sheets, where it costs no sheet more",
                setup.same_layouts,
              ],
              ["guillotine", "cuts from edge to edge, for a panel saw (rectangles only)", setup.guillotine],
            ] as const
          ).map(([k, text, on]) => (
            <label key={k} className="flex items-start gap-2">
              <input
                type="checkbox"
                className="mt-1"
                checked={on}
                onChange={() => edits.run({ kind: "set-setup", setup: setup.id, [k]: !on })}
              />
              {text}
            </label>
          ))}
        </div>
      </details>
      {nest && nest.state !== "none" && (nest.curve?.length || running || nest.message) ? (
        <Progress nest={nest} />
      ) : null}
      {sheets > 0 && (
        <dl className="mt-3 grid grid-cols-[1fr_auto_auto] gap-x-4">
          {rows.map((k) => {
            const s = y.sheets[k.first];
            return (
              <div key={`${k.sheet}/${k.copies[0]}`} className="contents">
                <dt className="rule py-1">
                  <button className="underline decoration-dotted" onClick={() => show(s.sheet, s.copy_no)}>
                    sheet {k.first + 1}
                  </button>{" "}
                  <span className="label">
                    {k.copies.length > 1 ? (
                      <b className="font-semibold text-ink">x {k.copies.length} alike, </b>
                    ) : null}
                    {s.pieces} piece{s.pieces === 1 ? "" : "s"}
                  </span>
                </dt>
                <dd className="num rule py-1 text-right">{(s.utilisation * 100).toFixed(1)} %</dd>
                <dd className="num rule py-1 text-right">
                  {length(s.used_length, unit, unit === "mm" ? 0 : 1)}
                </dd>
              </div>
            );
          })}
        </dl>
      )}
      {sheets > 0 && (
        <p className="mt-1 text-[13.5px]">
          <b className="num font-semibold">{(setup.layout.yield * 100).toFixed(1)} %</b> of the material used
          is parts, the last sheet counted as far as it is used.
        </p>
      )}
      {sheets > 0 && (
        <p className="label mt-1">
          {sheets > setup.layout.bound
            ? `By area alone no fewer than ${setup.layout.bound} could do: at most ${sheets - setup.layout.bound} fewer is possible.`
            : "Fewer sheets are not possible."}
        </p>
      )}
      {piece && part && (
        <section className="mt-4 border-t border-line pt-2" aria-label="Selected piece">
          <h3 className="font-semibold">
            {part.name}, piece {piece.copy_no + 1}
          </h3>
          <p className="num text-[13.5px]">
            X {length(piece.x, unit)} Y {length(piece.y, unit)} {Number(piece.rotation.toFixed(2))}°
            {piece.mirrored ? ", turned over" : ""}
          </p>
          <div className="mt-1 flex flex-wrap gap-1.5">
            <button
              className={piece.locked ? "key-strong" : "key"}
              aria-pressed={piece.locked}
              onClick={() => move({ locked: !piece.locked })}
            >
              {piece.locked ? "Unlock" : "Lock"}
            </button>
            <button
              className="key"
              disabled={piece.locked || (part.rotations !== "free" && part.rotations.length < 2)}
              onClick={() => {
                const t = turned(piece, part, nextTurn(part, piece.rotation, 1));
                move({ x: t.x, y: t.y, rotation: t.rotation });
              }}
            >
              Turn
            </button>
            {part.mirror && (
              <button
                className="key"
                disabled={piece.locked}
                onClick={() => {
                  const t = mirroredPiece(piece, part);
                  move({ mirrored: t.mirrored, x: t.x, y: t.y });
                }}
              >
                Turn over
              </button>
            )}
            <button
              className={swap ? "key-strong" : "key"}
              aria-pressed={!!swap}
              disabled={piece.locked}
              onClick={() => setSwap(swap ? null : piece.id)}
            >
              Change places
            </button>
            <button
              className="key"
              title="One piece more of this part, laid where there is room on this sheet: to make up for a spoiled one"
              onClick={() => {
                const line = part.lines[0];
                edits.run({ kind: "change-quantity", part: part.id, order: line.order, more: 1 });
                edits.run({
                  kind: "find-place",
                  setup: setup.id,
                  part: part.id,
                  copy_no: part.quantity,
                  sheet: piece.sheet,
                  sheet_copy: piece.sheet_copy,
                });
              }}
            >
              One more
            </button>
            <button
              className="key"
              disabled={piece.locked}
              onClick={() => {
                onSelect(null);
                edits.run({
                  kind: "take-off-piece",
                  setup: setup.id,
                  part: piece.part,
                  copy_no: piece.copy_no,
                });
              }}
            >
              Take off
            </button>
            {y.sheets
              .filter((s) => s.sheet !== piece.sheet || s.copy_no !== piece.sheet_copy)
              .map((s) => (
                <button
                  key={`${s.sheet}/${s.copy_no}`}
                  className="key"
                  disabled={piece.locked}
                  onClick={() => {
                    edits.run({
                      kind: "find-place",
                      setup: setup.id,
                      part: piece.part,
                      copy_no: piece.copy_no,
                      sheet: s.sheet,
                      sheet_copy: s.copy_no,
                    });
                    show(s.sheet, s.copy_no);
                  }}
                >
                  To sheet {y.sheets.indexOf(s) + 1}
                </button>
              ))}
          </div>
          {swap ? (
            <p className="mt-1.5 text-[13.5px]" role="status">
              Now choose the piece it changes places with.
            </p>
          ) : (
            <p className="label mt-1.5">
              Drag it: near others it goes into contact, with Alt held it stays free. Arrow keys move it 1 mm,
              with Shift 10 mm; T turns it{part.mirror ? ", M turns it over" : ""}.
            </p>
          )}
        </section>
      )}
      {here.length > 0 && (
        <div className="mt-2 flex flex-wrap gap-1.5">
          {unlocked.length > 0 ? (
            <button className="key" onClick={() => lockAll(true)}>
              Lock this sheet
            </button>
          ) : (
            <button className="key" onClick={() => lockAll(false)}>
              Unlock this sheet
            </button>
          )}
          <button
            className="key"
            onClick={() =>
              edits.run({
                kind: "keep-layout",
                setup: setup.id,
                id: `kept-${Date.now().toString(36)}`,
                name: `${sheets} sheet${sheets === 1 ? "" : "s"}, ${(setup.layout.yield * 100).toFixed(1)} %`,
              })
            }
          >
            Keep this layout
          </button>
        </div>
      )}
      {setup.kept.length > 0 && (
        <section className="mt-3" aria-label="Kept layouts">
          <h3 className="font-semibold">Kept layouts</h3>
          <ul className="grid grid-cols-2 gap-2">
            {setup.kept.map((k) => (
              <li key={k.id} className="border border-line bg-paper p-1.5">
                <Thumb job={job} setup={setup} kept={k} />
                <p className="num text-[13px]">
                  {k.sheets} sheet{k.sheets === 1 ? "" : "s"}, {(k.yield * 100).toFixed(1)} %
                </p>
                <p className="label">
                  {k.placed} pieces, last to {length(k.last, unit, unit === "mm" ? 0 : 1)}
                  {k.current ? "" : "; made for other inputs"}
                </p>
                <p className="mt-1 flex gap-1">
                  <button
                    className="key !py-0 text-[13px]"
                    onClick={() => edits.run({ kind: "use-layout", setup: setup.id, id: k.id })}
                  >
                    Use
                  </button>
                  <button
                    className="key !py-0 text-[13px]"
                    onClick={() => edits.run({ kind: "forget-layout", setup: setup.id, id: k.id })}
                  >
                    Forget
                  </button>
                </p>
              </li>
            ))}
          </ul>
        </section>
      )}
      {unplaced.length > 0 && setup.pieces.length > 0 && (
        <section className="mt-3">
          <h3 className="font-semibold">Off the sheets</h3>
          <ul>
            {unplaced.map(([id, n]) => {
              const p = job.parts.find((v) => v.id === id)!;
              const used = new Set(setup.pieces.filter((q) => q.part === id).map((q) => q.copy_no));
              const free = [...Array(p.quantity).keys()].find((c) => !used.has(c)) ?? 0;
              return (
                <li key={id} className="rule flex items-center justify-between gap-2 py-1">
                  <span>
                    {n} x {p.name}
                  </span>
                  <button
                    className="key"
                    onClick={() =>
                      edits.run({
                        kind: "find-place",
                        setup: setup.id,
                        part: id,
                        copy_no: free,
                        sheet: at[0],
                        sheet_copy: at[1],
                      })
                    }
                  >
                    Put on this sheet
                  </button>
                </li>
              );
            })}
          </ul>
        </section>
      )}
      <Snags
        snags={setup.snags.filter((s) => s.rule.startsWith("nest"))}
        edits={edits}
        onFind={(s) => {
          const p = setup.pieces.find((q) => q.id === s.where?.piece);
          if (p) {
            show(p.sheet, p.sheet_copy);
            onSelect(p.id);
          }
        }}
      />
    </>
  );
}

/** A kept layout drawn small, its sheets below each other. */
function Thumb({ job, setup, kept }: { job: Job; setup: Setup; kept: Kept }) {
  const parts = new Map(job.parts.map((p) => [p.id, p]));
  const sheets = [...new Map(kept.pieces.map((p) => [`${p.sheet}/${p.sheet_copy}`, p])).values()]
    .flatMap((p) => {
      const s = setup.stock.find((k) => k.id === p.sheet);
      return s ? [{ s, copy: p.sheet_copy }] : [];
    })
    .slice(0, 4);
  const width = Math.max(1, ...sheets.map((v) => v.s.width)),
    height = sheets.reduce((h, v) => h + v.s.height + 40, 0) || 1;
  let top = 0;
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="h-[76px] w-full" aria-hidden>
      {sheets.map(({ s, copy }) => {
        const y = top + s.height;
        top += s.height + 40;
        return (
          <g key={`${s.id}/${copy}`} transform={`translate(0 ${y}) scale(1 -1)`}>
            {s.outline.length > 2 ? (
              <polygon
                points={s.outline.map((q) => q.join(",")).join(" ")}
                fill="#eedcb6"
                stroke="#21262a"
                strokeWidth={width / 160}
              />
            ) : (
              <rect
                width={s.width}
                height={s.height}
                fill="#eedcb6"
                stroke="#21262a"
                strokeWidth={width / 160}
              />
            )}
            {kept.pieces
              .filter((p) => p.sheet === s.id && p.sheet_copy === copy)
              .map((p, i) => {
                const part = parts.get(p.part);
                return part ? (
                  <path
                    key={i}
                    d={part.contours.map((c) => c.d).join("")}
                    transform={placeOf(p)}
                    fill="#fbf7ef"
                    fillRule="evenodd"
                    stroke="#1c4e49"
                    strokeWidth={width / 220}
                  />
                ) : null;
              })}
          </g>
        );
      })}
    </svg>
  );
}

/** Material yield over time against what no layout can beat: a glance says whether waiting pays. */
function Progress({ nest }: { nest: NestState }) {
  const curve = nest.curve ?? [],
    end = Math.max(nest.state === "running" ? (nest.seconds ?? 1) : 0, nest.elapsed ?? 1),
    best = curve.length ? Math.max(...curve.map((c) => c[2])) : 0,
    low = curve.length ? Math.min(...curve.map((c) => c[2])) - 0.02 : 0;
  const limit = nest.limit ?? 1,
    top = Math.max(limit, best),
    X = (t: number) => 4 + (t / end) * 300,
    Y = (u: number) => 66 - ((u - low) / Math.max(top - low, 0.01)) * 50;
  const d =
    curve.map((c, i) => `${i ? `L${X(c[0])} ${Y(curve[i - 1][2])}L` : "M"}${X(c[0])} ${Y(c[2])}`).join("") +
    (curve.length ? `L${X(nest.elapsed ?? 0)} ${Y(curve[curve.length - 1][2])}` : "");
  const last = curve[curve.length - 1];
  return (
    <div className="mt-2 border border-line bg-paper px-2 py-1" role="status">
      <p className="text-[13.5px]">
        {nest.state === "running"
          ? `searching, ${(nest.elapsed ?? 0).toFixed(0)} of ${nest.seconds} s`
          : nest.state === "waiting"
            ? `waiting for ${nest.ahead ? `${nest.ahead} other search${nest.ahead === 1 ? "" : "es"}` : "its turn"}`
            : nest.state === "accepted"
              ? `searched for ${(nest.elapsed ?? 0).toFixed(0)} s; ${nest.message || "the best that was found is taken"}`
              : nest.message}
      </p>
      {last && (
        <svg
          viewBox="0 0 310 72"
          className="w-full"
          role="img"
          aria-label={`Material yield ${(best * 100).toFixed(1)} percent after ${(nest.elapsed ?? 0).toFixed(0)} seconds; no layout can reach ${(limit * 100).toFixed(1)} percent`}
        >
          <path d={`M4 ${Y(limit)}H304`} stroke="#21262a" strokeDasharray="1 3" />
          <text x={4} y={Y(limit) - 3} fontSize={11.5} fill="#4d5357" className="num">
            no layout above {(limit * 100).toFixed(1)} %
          </text>
          <path d="M4 67H304" stroke="#cdbfa6" />
          <path d={d} fill="none" stroke="#1c4e49" strokeWidth={2} />
          <text
            x={304}
            y={Math.max(Y(best) - 5, Y(limit) + 12)}
            textAnchor="end"
            stroke="#faf6ee"
            strokeWidth={3}
            paintOrder="stroke"
            fontSize={12.5}
            className="num"
          >
            {(best * 100).toFixed(1)} % yield, {last[1]} sheet{last[1] === 1 ? "" : "s"}
          </text>
        </svg>
      )}
    </div>
  );
}
