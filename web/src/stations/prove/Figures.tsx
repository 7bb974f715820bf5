import { clock, type ProofSheet, type Setup } from "../../api/model";
import { bare, length, metres, useUnit } from "../../shared/lengths";

/** What the programs of a sheet come to: moves, time, ways and extents. */
export function Figures({ proof: p, setup }: { proof: ProofSheet; setup: Setup }) {
  const { unit } = useUnit();
  const sheet = setup.sheets.find((s) => s.sheet === p.sheet && s.copy_no === p.copy_no);
  const stops = sheet?.cuts.filter((c) => c.stop).length ?? 0;
  const long = setup.long?.along,
    moves = long ? Math.max(0, ...(sheet?.cuts ?? []).map((c) => c.position - 1)) : 0;
  const r = (v: number) => bare(v, unit, unit === "mm" ? 2 : 3);
  const lines: [string, string][] = [
    ["moves", String(p.moves)],
    ["time of motion, with acceleration", clock(p.seconds)],
    ["cutter changes", clock((sheet?.changes.length ?? 0) * setup.machine.change_seconds)],
    ...(stops
      ? [["stops for the operator", clock(stops * setup.machine.stop_seconds)] as [string, string]]
      : []),
    ...(moves
      ? [["moving the stock along", clock(moves * (long?.indexing.seconds ?? 0))] as [string, string]]
      : []),
    ["cutting / fast travel", `${metres(p.cut_length, unit)} / ${metres(p.rapid_length, unit)}`],
  ];
  if (p.lowest && p.highest)
    lines.push(
      ["lowest, from the top", length(p.lowest[2], unit)],
      ["cutter's middle, X", `${r(p.lowest[0])} to ${r(p.highest[0])}`],
      ["cutter's middle, Y", `${r(p.lowest[1])} to ${r(p.highest[1])}`],
    );
  return (
    <dl className="grid grid-cols-[1fr_auto] gap-x-3">
      {lines.map(([what, figure]) => (
        <div key={what} className="rule col-span-2 flex items-baseline gap-3 py-0.5">
          <dt className="label">{what}</dt>
          <dd className="num ml-auto text-right">{figure}</dd>
        </div>
      ))}
    </dl>
  );
}
