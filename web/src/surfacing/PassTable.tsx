import { clock } from "../api/model";
import { type Unit, bare, metres, useUnit } from "../shared/lengths";
import { percent, type Tabs } from "./tab";

/** The height of a pass as its program has it. */
const level = ({ bench: { how, board } }: Tabs["view"], depth: number, unit: Unit) =>
  how.touch === "table"
    ? bare(board.thickness - depth, unit, unit === "mm" ? 2 : 3)
    : `-${bare(depth, unit, unit === "mm" ? 2 : 3)}`;

/** Passes with their depths, rows and times. */
export function PassTable({ view }: { view: Tabs["view"] }) {
  const { unit } = useUnit();
  return (
    <table className="mt-2 w-full text-small" aria-label="Passes">
      <thead>
        <tr className="label text-right">
          <th className="text-left font-normal">pass</th>
          <th className="font-normal">Z</th>
          <th className="font-normal">rows</th>
          <th className="font-normal">touches</th>
          <th className="font-normal">time</th>
        </tr>
      </thead>
      <tbody>
        {view.layers.map((l) => (
          <tr key={l.name} className="num text-right">
            <td className="text-left font-sans">{l.name.replace(/^pass /, "")}</td>
            <td>{level(view, l.depth, unit)}</td>
            <td>{l.rows}</td>
            <td>{l.touched === null ? "" : percent(l.touched)}</td>
            <td>{clock(l.seconds)}</td>
          </tr>
        ))}
        {view.skipped.map((t) => (
          <tr key={t}>
            <td colSpan={5} className="label">
              {t}
            </td>
          </tr>
        ))}
        <tr className="label num text-right">
          <td className="text-left font-sans" colSpan={4}>
            travel from where Z was touched off, and between passes
          </td>
          <td>{clock(view.travel)}</td>
        </tr>
        <tr className="num border-t border-line text-right font-medium">
          <td className="text-left font-sans">in all</td>
          <td>{level(view, view.deepest, unit)}</td>
          <td />
          <td>{metres(view.cut_length, unit)}</td>
          <td className="pl-3">{clock(view.seconds)}</td>
        </tr>
      </tbody>
    </table>
  );
}
