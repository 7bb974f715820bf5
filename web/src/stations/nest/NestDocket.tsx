import { layoutWords, snagsOf } from "../../api/model";
import { PiecesInHand } from "../../choosing/PiecesInHand";
import { LongStock } from "../../indexing/LongStock";
import { follows, inJig } from "../../job/partsIn";
import { useJobView } from "../../job/view";
import { Choices } from "../../shared/Choices";
import { Section } from "../../shared/Section";
import { Snags } from "../../shared/Snags";
import { length, useUnit } from "../../shared/lengths";
import { Turning } from "../../turning/Turning";
import { KeptLayouts } from "./KeptLayouts";
import { OffTheSheets } from "./OffTheSheets";
import { PieceInHand } from "./PieceInHand";
import { Progress } from "./Progress";
import { RemnantsFirst } from "./RemnantsFirst";

/** The layout, the search for a better one, and what is chosen in it. */
export function NestDocket() {
  const { setup, edits, search, show, select } = useJobView();
  const { unit } = useUnit();
  const { nest, running } = search;
  const { web } = setup.rules;
  return (
    <>
      <h2 className="text-figure font-semibold">
        Layout: <span data-testid="layout-state">{layoutWords(setup.layout)}</span>
      </h2>
      <p className="label">
        {length(setup.spacing, unit, 1)} between pieces: cutter {length(setup.spacing - web, unit, 1)} + web{" "}
        {length(web, unit, 1)}
      </p>
      <Snags
        snags={snagsOf("nest", setup)}
        edits={edits}
        quiet
        onFind={(s) => {
          const p = setup.pieces.find((q) => q.id === s.where?.piece);
          if (!p) return;
          show(p.sheet, p.sheet_copy);
          select(p.id);
        }}
      />
      {follows(setup) ? (
        <Turning />
      ) : (
        <>
          <SearchKeys />
          <Wishes />
        </>
      )}
      {nest && nest.state !== "none" && (nest.curve?.length || running || nest.message) ? (
        <Progress nest={nest} />
      ) : null}
      {!inJig(setup) && <SheetList />}
      {!follows(setup) && (
        <>
          <PieceInHand />
          <PiecesInHand />
          <SheetKeys />
          <KeptLayouts />
          <OffTheSheets />
          <RemnantsFirst />
          <LongStock />
          {!setup.long?.along && <Turning />}
        </>
      )}
    </>
  );
}

const TIMES: [number, string][] = [
  [8, "8 s"],
  [30, "30 s"],
  [120, "2 min"],
  [600, "10 min"],
];

function SearchKeys() {
  const { setup, search } = useJobView();
  const { running, start, stop, seconds, setSeconds, watch, setWatch } = search;
  const words = setup.pieces.some((p) => p.locked)
    ? "Nest around the locked"
    : setup.layout.state === "fits"
      ? "Keep searching"
      : setup.pieces.length
        ? "Nest again"
        : "Nest the pieces";
  return (
    <>
      <div className="mt-2 flex flex-wrap gap-2">
        {running ? (
          <button className="key-strong" onClick={stop}>
            Stop, keep the best
          </button>
        ) : (
          <button className="key-strong" onClick={() => start()}>
            {words} <kbd className="num ml-1 opacity-75">N</kbd>
          </button>
        )}
        {!running && setup.pieces.length > 0 && (
          <button className="key" onClick={() => start(true)}>
            Start afresh
          </button>
        )}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-1.5">
        <span className="label" aria-hidden>
          search for
        </span>
        <Choices
          label="Time for the search"
          value={seconds}
          options={TIMES}
          disabled={running}
          onPick={setSeconds}
        />
      </div>
      {running && (
        <div className="mt-2">
          <Choices
            label="What the table shows"
            value={watch}
            options={[
              [true, "The search, live"],
              [false, "The layout in the plan"],
            ]}
            onPick={setWatch}
          />
        </div>
      )}
    </>
  );
}

function Wishes() {
  const { setup, edits } = useJobView();
  const wishes = [
    ...(setup.same_layouts ? ["same layouts"] : []),
    ...(setup.guillotine ? ["edge to edge"] : []),
    ...(setup.allow_in_holes ? [] : ["nothing in holes"]),
  ];
  const all = [
    ["allow_in_holes", "pieces may lie in the holes of others", setup.allow_in_holes],
    ["same_layouts", "the same layout on several sheets, where it costs no sheet more", setup.same_layouts],
    ["guillotine", "cuts from edge to edge, for a panel saw (rectangles only)", setup.guillotine],
  ] as const;
  return (
    <Section title={wishes.length ? `Wishes: ${wishes.join(", ")}` : "Wishes for the layout"}>
      <div className="mt-1 grid gap-1 text-small">
        {all.map(([k, text, on]) => (
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
    </Section>
  );
}

/** Sheets that carry the same in one line, how much of each is used, and whether fewer could do. */
function SheetList() {
  const { setup, show } = useJobView();
  const { unit } = useUnit();
  const { sheets } = setup.yields;
  if (!sheets.length) return null;
  const rows = setup.layout.same
    .map((k) => ({
      ...k,
      first: sheets.findIndex((s) => s.sheet === k.sheet && s.copy_no === k.copies[0]),
    }))
    .filter((k) => k.first >= 0)
    .sort((a, b) => a.first - b.first);
  const fewer = sheets.length - setup.layout.bound;
  return (
    <>
      <dl className="mt-3 grid grid-cols-[1fr_auto_auto] gap-x-4">
        {rows.map((k) => {
          const s = sheets[k.first];
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
      <p className="mt-1 text-small">
        <b className="num font-semibold">{(setup.layout.yield * 100).toFixed(1)} %</b> of the material used is
        parts, the last sheet counted as far as it is used.
      </p>
      <p className="label mt-1">
        {fewer > 0
          ? `By area alone no fewer than ${setup.layout.bound} could do: at most ${fewer} fewer is possible.`
          : "Fewer sheets are not possible."}
      </p>
    </>
  );
}

/** What is done with the whole sheet. */
function SheetKeys() {
  const { setup, edits, sheet } = useJobView();
  const here = setup.pieces.filter((p) => p.sheet === sheet[0] && p.sheet_copy === sheet[1]);
  if (!here.length) return null;
  const locked = here.every((p) => p.locked),
    n = setup.yields.sheets.length;
  return (
    <div className="mt-2 flex flex-wrap gap-1.5">
      <button
        className="key"
        onClick={() =>
          edits.run({
            kind: "lock-pieces",
            setup: setup.id,
            sheet: sheet[0],
            sheet_copy: sheet[1],
            locked: !locked,
          })
        }
      >
        {locked ? "Unlock this sheet" : "Lock this sheet"}
      </button>
      <button
        className="key"
        onClick={() =>
          edits.run({
            kind: "keep-layout",
            setup: setup.id,
            id: `kept-${Date.now().toString(36)}`,
            name: `${n} sheet${n === 1 ? "" : "s"}, ${(setup.layout.yield * 100).toFixed(1)} %`,
          })
        }
      >
        Keep this layout
      </button>
    </div>
  );
}
