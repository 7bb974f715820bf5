import { clock, type Job, type Setup } from "../../api/model";
import { metres, squareMetres, useUnit } from "../../shared/lengths";
import { money } from "../../shared/money";

export function YieldDocket({ job, setup }: { job: Job; setup: Setup }) {
  const { unit } = useUnit();
  const y = setup.yields,
    mass = y.sheets.reduce((n, s) => n + s.net_mass, 0),
    cost = y.material_cost + y.machine_cost,
    { currency } = setup.rules;
  const known = (what: "material" | "machine", v: number) =>
    y.unpriced.includes(what) ? "no price yet" : money(v, currency);
  const rows: [string, string][] = [
    ["pieces", String(y.pieces)],
    ["sheets, at least by area", `${y.sheets.length}, ${y.bound}`],
    ["bought", squareMetres(y.sheet_area, unit)],
    ["in the parts", squareMetres(y.net_area, unit)],
    ["used", `${(y.utilisation * 100).toFixed(1)} %`],
    ["length of cut", metres(y.cut_length, unit)],
    ["machine time", clock(y.seconds)],
    ["material", known("material", y.material_cost)],
    ["machine", known("machine", y.machine_cost)],
    ["together", y.unpriced.length ? "-" : money(cost, currency)],
    ["each piece, on average", y.pieces && !y.unpriced.length ? money(cost / y.pieces, currency) : "-"],
    ["mass of the parts", `${mass.toFixed(1)} kg`],
  ];
  const total = job.parts.filter((p) => p.setup === setup.id).reduce((n, p) => n + p.area * p.quantity, 0);
  return (
    <>
      <h2 className="text-figure font-semibold">What the job uses</h2>
      <dl className="mt-2 grid grid-cols-[1fr_auto] gap-x-3">
        {rows.map(([k, v]) => (
          <div key={k} className="contents">
            <dt className="label rule py-1">{k}</dt>
            <dd className="num rule py-1 text-right">{v}</dd>
          </div>
        ))}
      </dl>
      <h3 className="mt-4 font-semibold">Share of each part in the material</h3>
      <table className="mt-1 w-full">
        <tbody>
          {job.parts
            .filter((p) => p.setup === setup.id && p.quantity)
            .map((p) => (
              <tr key={p.id}>
                <td className="rule py-0.5">
                  {p.name} <span className="label">x {p.quantity}</span>
                </td>
                <td className="num rule text-right">
                  {total && y.pieces && !y.unpriced.includes("material")
                    ? money((y.material_cost * p.area) / total, currency)
                    : "-"}
                </td>
                <td className="label rule w-10 text-right">each</td>
              </tr>
            ))}
        </tbody>
      </table>
      <p className="label mt-2">
        The sheets' cost is shared by net area, so that waste and remnant are paid by the parts. Machine time
        includes acceleration and cutter changes, not setting up.
      </p>
    </>
  );
}
