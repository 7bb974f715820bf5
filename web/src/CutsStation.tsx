import type { ReactNode } from "react";

import type { Edits } from "./api";
import { clock, type Job, type Operation, type Setup, type SheetPlan } from "./model";
import { QuantityField } from "./PartsStation";
import { Snags } from "./Snags";
import { bare, length, LengthField, useUnit } from "./units";

export function CutsDocket({ job, setup, edits, selected, plan, onSelect }: { job: Job; setup: Setup; edits: Edits; selected: string | null; plan?: SheetPlan; onSelect: (id: string | null) => void }) {
  const { unit } = useUnit();
  const piece = setup.pieces.find((p) => p.id === selected), part = piece && job.parts.find((p) => p.id === piece.part);
  const snags = setup.snags.filter((s) => ["cuts", "holding", "choice", "cutters"].includes(s.rule.split(".")[0]));
  const find = (s: { where: Record<string, unknown> | null }) => onSelect((s.where?.piece as string) ?? setup.pieces.find((p) => p.part === s.where?.part)?.id ?? null);
  if (!piece || !part)
    return (
      <>
        <h2 className="text-[20px] font-semibold">How it is cut</h2>
        <p className="label">For all parts of {setup.name}. Choose a piece on the table for its own cuts and tabs.</p>
        {[...setup.operations].sort((a) => (a.on === "holes" ? -1 : 1)).map((o) => <OperationCard key={o.id} op={o} setup={setup} edits={edits} />)}
        <Snags snags={snags} edits={edits} onFind={find} />
      </>
    );
  const plans = setup.contours[part.id] ?? [], copies = setup.pieces.filter((p) => p.part === part.id).length;
  const seconds = (contour: string) => plan?.cuts.filter((c) => c.piece === piece.id && c.contour === contour).reduce((n, c) => n + c.seconds, 0) ?? 0;
  const choose = (contour: string, fields: Record<string, unknown>) => edits.run({ kind: "set-contour", part: part.id, contour, ...fields });
  return (
    <>
      <h2 className="text-[20px] font-semibold">{part.name}, piece {piece.copy_no + 1} of {part.quantity}</h2>
      <p className="label">Choices here hold for all {copies} piece{copies === 1 ? "" : "s"} of this part.</p>
      <table className="mt-2 w-full border-collapse text-left"><thead><tr className="label"><th className="font-normal">Cuts on it</th><th className="text-right font-normal">min:s</th></tr></thead>
        <tbody>{plans.map((c) => {
          const cutter = setup.cutters.find((k) => k.id === c.cutter), title = c.contour === part.contours[0].name ? "Outline" : c.contour[0].toUpperCase() + c.contour.slice(1), size = part.contours.find((k) => k.name === c.contour)?.size;
          return (
            <tr key={c.contour} className="align-top"><td className="rule py-1.5 pr-2">
              {c.omitted ? <span>{title}: left out on purpose. <button className="underline" onClick={() => choose(c.contour, { omit: false })}>Cut it again</button></span> : (
                <>
                  <span>{title}{c.inside && size ? ` ${bare(size[0], unit, 1)} x ${bare(size[1], unit, 1)}` : ""}, {c.inside ? "inside" : "outside"}, </span>
                  <select className="max-w-[11rem] border-b border-dotted border-ink bg-transparent font-medium" aria-label={`Cutter for ${c.contour}`} value={c.cutter} onChange={(e) => { const op = setup.operations.find((o) => o.id === c.operation); choose(c.contour, e.target.value === op?.cutter ? { automatic: ["cutter"] } : { cutter: e.target.value }); }}>
                    {setup.cutters.map((k) => <option key={k.id} value={k.id}>{k.name}</option>)}</select>
                  <span title={c.reason}>, <Why text={c.reason}>{c.passes} pass{c.passes === 1 ? "" : "es"} to {length(c.depth, unit)}</Why></span>
                  <span className="flex flex-wrap items-baseline gap-x-2 text-[14px]">
                    <span className="label">tabs</span><TabCount value={c.tabs.length} onCommit={(n) => choose(c.contour, { tab_count: n })} />
                    <span className="label">{c.by_hand ? "placed by hand" : c.tabs.length ? "spread on straight runs" : cutter ? "none" : ""}</span>
                    {(c.by_hand || c.tabs.length > 0 || !c.inside) && <button className="text-[13px] underline decoration-dotted" onClick={() => choose(c.contour, { automatic: ["tabs", "tab_count"] })}>automatic</button>}
                  </span>
                </>)}
            </td><td className="num rule py-1.5 text-right">{c.omitted ? "-" : clock(seconds(c.contour))}</td></tr>
          );
        })}</tbody></table>
      <p className="label mt-2">Drag a tab along its edge on the table; with the keyboard, focus it and use the arrow keys.</p>
      <Snags snags={snags.filter((s) => s.where?.part === part.id || s.where?.piece === piece.id)} edits={edits} />
    </>
  );
}

const Why = ({ text, children }: { text: string; children: ReactNode }) => (
  <span className="group relative cursor-help font-medium underline decoration-dotted underline-offset-2" tabIndex={0}>{children}
    <span role="tooltip" className="pointer-events-none absolute right-0 top-full z-20 hidden w-64 border border-ink bg-[#fffdf8] p-2 text-[13px] font-normal no-underline shadow group-hover:block group-focus:block">{text}</span></span>
);

const TabCount = ({ value, onCommit }: { value: number; onCommit: (n: number) => void }) => (
  <span className="inline-flex items-center"><button className="key !px-2 !py-0" aria-label="one tab fewer" disabled={value === 0} onClick={() => onCommit(value - 1)}>-</button><span className="num w-7 text-center">{value}</span><button className="key !px-2 !py-0" aria-label="one tab more" disabled={value >= 40} onClick={() => onCommit(value + 1)}>+</button></span>
);

function OperationCard({ op, setup, edits }: { op: Operation; setup: Setup; edits: Edits }) {
  const { unit } = useUnit();
  const cutter = setup.cutters.find((c) => c.id === op.cutter), feeds = cutter?.feeds[setup.material.family], overshoot = op.overshoot ?? setup.rules.overshoot[setup.material.family];
  const set = (fields: Partial<Operation>) => edits.run({ kind: "set-operation", setup: setup.id, operation: { ...op, ...fields } });
  const tabs = op.tabs ?? (op.on === "outlines" ? setup.tabs_policy : { ...setup.tabs_policy, count: 0 });
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-2" aria-label={`Profile of ${op.on}`}>
      <p><b className="font-semibold">{op.on === "holes" ? "Holes, inside" : "Outlines, outside"}</b>, <select className="border-b border-dotted border-ink bg-transparent font-medium" aria-label={`Cutter for ${op.on}`} value={op.cutter} onChange={(e) => set({ cutter: e.target.value })}>
        {setup.cutters.map((c) => <option key={c.id} value={c.id}>{c.name}</option>)}</select>,{" "}
        <button className="border-b border-dotted border-ink font-medium" onClick={() => set({ direction: op.direction === "climb" ? "conventional" : "climb" })}>{op.direction}</button>, ramp in</p>
      {feeds && cutter && <p className="num text-[13px] text-quiet">{feeds.rpm} rpm  {unit === "mm" ? `${(feeds.feed / 1000).toFixed(1)} m/min` : `${(feeds.feed / 25.4).toFixed(0)} in/min`}  chip {bare(feeds.feed / feeds.rpm / cutter.flutes, unit, unit === "mm" ? 3 : 4)} {unit}</p>}
      <LengthField label={op.overshoot === null ? "overshoot, by house rule" : "overshoot, set by hand"} mm={overshoot ?? 0.5} onCommit={(v) => set({ overshoot: v })} />
      <details><summary className="label cursor-pointer">depth per pass, ramp, tabs ({tabs.count} of {bare(tabs.width, unit)} x {bare(tabs.height, unit)})</summary>
        <LengthField label={op.step_down === null ? "depth per pass, by house rule" : "depth per pass"} mm={op.step_down ?? stepOf(setup, op)} onCommit={(v) => set({ step_down: v })} />
        <LengthField label="ramp length" mm={op.ramp_length ?? Number(setup.rules.ramp_length)} onCommit={(v) => set({ ramp_length: v })} />
        <div className="flex items-baseline justify-between"><span className="label">tabs a contour</span><QuantityField value={tabs.count} onCommit={(count) => set({ tabs: { ...tabs, count } })} /></div>
        <LengthField label="tab width" mm={tabs.width} onCommit={(width) => set({ tabs: { ...tabs, width } })} />
        <LengthField label="tab height over the bed" mm={tabs.height} onCommit={(height) => set({ tabs: { ...tabs, height } })} />
        <button className="key" onClick={() => set({ step_down: null, overshoot: null, ramp_length: null, tabs: null })}>All by house rule</button>
      </details>
    </section>
  );
}

const stepOf = (setup: Setup, op: Operation) => Object.values(setup.contours).flat().find((c) => c.operation === op.id && c.cutter === op.cutter)?.step_down ?? 0;
