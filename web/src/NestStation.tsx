import type { Edits } from "./api";
import type { Job, NestState, Setup } from "./model";
import { Snags } from "./Snags";
import { nextTurn, turned } from "./TableView";
import { length, useUnit } from "./units";

type Props = { job: Job; setup: Setup; edits: Edits; selected: string | null; nest: NestState | null; onNest: () => void; onStop: () => void; onSelect: (id: string | null) => void; show: (sheet: string, copy: number) => void };
const STATE = { none: "not nested", fits: "fits", adrift: "adrift: inputs changed since", broken: "broken: not legal as it lies" };

export function NestDocket({ job, setup, edits, selected, nest, onNest, onStop, onSelect, show }: Props) {
  const { unit } = useUnit();
  const running = nest?.state === "running";
  const piece = setup.pieces.find((p) => p.id === selected), part = piece && job.parts.find((p) => p.id === piece.part);
  const y = setup.yields, sheets = y.sheets.length;
  const move = (fields: Record<string, unknown>) => piece && edits.run({ kind: "move-piece", setup: setup.id, part: piece.part, copy_no: piece.copy_no, x: piece.x, y: piece.y, rotation: piece.rotation, mirrored: piece.mirrored, sheet: piece.sheet, sheet_copy: piece.sheet_copy, ...fields });
  const unplaced = Object.entries(setup.layout.unplaced);
  return (
    <>
      <h2 className="text-[20px] font-semibold">Layout: <span data-testid="layout-state">{STATE[setup.layout.state]}</span></h2>
      <p className="label">{length(setup.spacing, unit, 1)} between pieces: cutter {length(setup.spacing - setup.rules.web, unit, 1)} + web {length(setup.rules.web, unit, 1)}</p>
      <div className="mt-2 flex flex-wrap gap-2">
        {running ? <button className="key-strong" onClick={onStop}>Stop, keep the best</button> : <button className="key-strong" onClick={onNest}>{setup.pieces.some((p) => p.locked) ? "Nest around the locked" : setup.pieces.length ? "Nest again" : "Nest the pieces"} <kbd className="num ml-1 opacity-75">N</kbd></button>}
      </div>
      {nest && nest.state !== "none" && (nest.curve?.length || running || nest.message) ? <Progress nest={nest} /> : null}
      {sheets > 0 && (
        <dl className="mt-3 grid grid-cols-[1fr_auto_auto] gap-x-4">
          {y.sheets.map((s, i) => (
            <div key={`${s.sheet}/${s.copy_no}`} className="contents">
              <dt className="rule py-1"><button className="underline decoration-dotted" onClick={() => show(s.sheet, s.copy_no)}>sheet {i + 1}</button> <span className="label">{s.pieces} pieces</span></dt>
              <dd className="num rule py-1 text-right">{(s.utilisation * 100).toFixed(1)} %</dd><dd className="num rule py-1 text-right">{length(s.used_length, unit, unit === "mm" ? 0 : 1)}</dd>
            </div>
          ))}
        </dl>
      )}
      {sheets > 0 && <p className="label mt-1">{sheets > setup.layout.bound ? `By area alone no fewer than ${setup.layout.bound} could do: at most ${sheets - setup.layout.bound} fewer is possible.` : "Fewer sheets are not possible."}</p>}
      {piece && part && (
        <section className="mt-4 border-t border-line pt-2" aria-label="Selected piece">
          <h3 className="font-semibold">{part.name}, piece {piece.copy_no + 1}</h3>
          <p className="num text-[13.5px]">X {length(piece.x, unit)}  Y {length(piece.y, unit)}  {piece.rotation}°</p>
          <div className="mt-1 flex flex-wrap gap-1.5">
            <button className={piece.locked ? "key-strong" : "key"} aria-pressed={piece.locked} onClick={() => move({ locked: !piece.locked })}>{piece.locked ? "Unlock" : "Lock"}</button>
            <button className="key" disabled={piece.locked || (part.rotations !== "free" && part.rotations.length < 2)} onClick={() => { const t = turned(piece, part, nextTurn(part, piece.rotation, 1)); move({ x: t.x, y: t.y, rotation: t.rotation }); }}>Turn</button>
            {part.mirror && <button className="key" disabled={piece.locked} onClick={() => move({ mirrored: !piece.mirrored, x: piece.x + (piece.mirrored ? -1 : 1) * (part.box[2] + part.box[0]) * Math.cos((piece.rotation * Math.PI) / 180), y: piece.y + (piece.mirrored ? -1 : 1) * (part.box[2] + part.box[0]) * Math.sin((piece.rotation * Math.PI) / 180) })}>Turn over</button>}
            <button className="key" disabled={piece.locked} onClick={() => { onSelect(null); edits.run({ kind: "take-off-piece", setup: setup.id, part: piece.part, copy_no: piece.copy_no }); }}>Take off</button>
            {y.sheets.filter((s) => s.sheet !== piece.sheet || s.copy_no !== piece.sheet_copy).map((s) => <button key={`${s.sheet}/${s.copy_no}`} className="key" disabled={piece.locked} onClick={() => { move({ sheet: s.sheet, sheet_copy: s.copy_no }); show(s.sheet, s.copy_no); }}>To sheet {y.sheets.indexOf(s) + 1}</button>)}
          </div>
          <p className="label mt-1.5">Drag it, or: arrow keys 1 mm, with Shift 10 mm; T turns it.</p>
        </section>
      )}
      {unplaced.length > 0 && setup.pieces.length > 0 && (
        <section className="mt-3"><h3 className="font-semibold">Off the sheets</h3>
          <ul>{unplaced.map(([id, n]) => { const p = job.parts.find((v) => v.id === id)!; const used = new Set(setup.pieces.filter((q) => q.part === id).map((q) => q.copy_no)); const free = [...Array(p.quantity).keys()].find((c) => !used.has(c)) ?? 0; const s = y.sheets[0];
            return <li key={id} className="rule flex items-center justify-between py-1"><span>{n} x {p.name}</span>{s && <button className="key" onClick={() => edits.run({ kind: "move-piece", setup: setup.id, part: id, copy_no: free, x: 20 - p.box[0], y: 20 - p.box[1], rotation: p.rotations === "free" ? 0 : p.rotations[0], sheet: s.sheet, sheet_copy: s.copy_no })}>Put on by hand</button>}</li>; })}</ul></section>
      )}
      <Snags snags={setup.snags.filter((s) => s.rule.startsWith("nest"))} edits={edits} onFind={(s) => { const p = setup.pieces.find((q) => q.id === s.where?.piece); if (p) { show(p.sheet, p.sheet_copy); onSelect(p.id); } }} />
    </>
  );
}

/** Yield over time while the search runs: small, so that a glance says whether waiting pays. */
function Progress({ nest }: { nest: NestState }) {
  const curve = nest.curve ?? [], end = Math.max(nest.seconds ?? 1, nest.elapsed ?? 1), best = curve.length ? Math.max(...curve.map((c) => c[2])) : 0, low = curve.length ? Math.min(...curve.map((c) => c[2])) * 0.97 : 0;
  const X = (t: number) => 4 + (t / end) * 300, Y = (u: number) => 42 - ((u - low) / Math.max(best - low, 0.01)) * 34;
  const d = curve.map((c, i) => `${i ? `L${X(c[0])} ${Y(curve[i - 1][2])}L` : "M"}${X(c[0])} ${Y(c[2])}`).join("") + (curve.length ? `L${X(nest.elapsed ?? 0)} ${Y(curve[curve.length - 1][2])}` : "");
  return (
    <div className="mt-2 border border-line bg-paper px-2 py-1" role="status">
      <p className="text-[13.5px]">{nest.state === "running" ? `searching, ${(nest.elapsed ?? 0).toFixed(0)} of ${nest.seconds} s, ${nest.steps} layouts tried` : nest.state === "accepted" ? `done: ${nest.steps} layouts tried, the best is kept` : nest.message}</p>
      {curve.length > 0 && <svg viewBox="0 0 310 48" className="w-full" aria-hidden><path d="M4 43H304" stroke="#cdbfa6" /><path d={d} fill="none" stroke="#1c4e49" strokeWidth={2} /><text x={304} y={12} textAnchor="end" fontSize={12} className="num">{(best * 100).toFixed(1)} % of {curve[curve.length - 1][1]} sheet{curve[curve.length - 1][1] === 1 ? "" : "s"}</text></svg>}
    </div>
  );
}
