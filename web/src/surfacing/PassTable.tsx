import { clock } from "../api/model";
import { bare, metres, useUnit } from "../shared/lengths";
import { percent, type Tabs } from "./tab";

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
            <td>-{bare(l.depth, unit, unit === "mm" ? 2 : 3)}</td>
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
        <tr className="num border-t border-line text-right font-medium">
          <td className="text-left font-sans">in all</td>
          <td>-{bare(view.deepest, unit, unit === "mm" ? 2 : 3)}</td>
          <td />
          <td>{metres(view.cut_length, unit)}</td>
          <td>{clock(view.seconds)}</td>
        </tr>
      </tbody>
    </table>
  );
}
