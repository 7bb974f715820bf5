import { clock, type Job, type Setup } from "../../api/model";
import { inUnit } from "../../shared/Tokens";
import { useUnit } from "../../shared/lengths";
import { money } from "../../shared/money";
import { type SetupUse, useYield } from "./useYield";

type Cost = SetupUse["cost"];

/** What it costs by kind, and what a piece of each part costs. */
export function Costs({ job, setup }: { job: Job; setup: Setup }) {
  const found = useYield(job).data?.setups.find((s) => s.setup === setup.id);
  if (!found)
    return (
      <p role="status" className="label">
        reckoning ...
      </p>
    );
  const { currency } = setup.rules;
  return (
    <div className="grid gap-5">
      <Kinds cost={found.cost} currency={currency} />
      <Parts cost={found.cost} currency={currency} />
      <p className="label max-w-[70ch]">
        Material and remnants are shared by the net area of the parts, so that waste is paid by the parts;
        machine time by what each cut takes of it; cutters by the metres each cuts; set-up by machine time;
        hand work where it falls. All parts together cost what the job costs.
      </p>
    </div>
  );
}

const said = (v: number | null | undefined, currency: string) =>
  v === null || v === undefined ? "no price yet" : money(v, currency);

function Kinds({ cost, currency }: { cost: Cost; currency: string }) {
  const { unit } = useUnit();
  const most = Math.max(1e-9, ...cost.lines.map((l) => Math.abs(l.sum ?? 0)));
  return (
    <table className="w-full" aria-label="Cost by kind">
      <tbody>
        {cost.lines.map((l) => (
          <tr key={l.of}>
            <th scope="row" className="rule py-1 pr-3 text-left font-medium">
              {l.of}
            </th>
            <td className="rule w-[38%] pr-3 align-middle">
              <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2.5 w-full" aria-hidden>
                <rect
                  width={(Math.abs(l.sum ?? 0) / most) * 100}
                  height="8"
                  fill={(l.sum ?? 0) < 0 ? "#f2f4ea" : "#8f8367"}
                  stroke="#21262a"
                  strokeWidth=".8"
                />
              </svg>
            </td>
            <td className="rule label pr-3">
              {l.lacks.length ? `no price: ${l.lacks.join(", ")}` : inUnit(l.says, unit)}
            </td>
            <td className="rule num whitespace-nowrap text-right">{said(l.sum, currency)}</td>
          </tr>
        ))}
        <tr>
          <th scope="row" className="py-1 text-left font-semibold">
            together
          </th>
          <td />
          <td className="label">{cost.total === null ? "as far as prices are known" : ""}</td>
          <td className="num whitespace-nowrap text-right text-head font-medium">
            {money(cost.total ?? cost.known, currency)}
          </td>
        </tr>
      </tbody>
    </table>
  );
}

function Parts({ cost, currency }: { cost: Cost; currency: string }) {
  return (
    <table className="w-full text-small" aria-label="Cost of a piece by part">
      <thead>
        <tr className="text-left text-quiet">
          <th className="font-normal">part</th>
          <th className="text-right font-normal">pieces</th>
          <th className="text-right font-normal">machine time</th>
          <th className="text-right font-normal">hand time</th>
          {cost.lines.map((l) => (
            <th key={l.of} className="text-right font-normal">
              {l.of}
            </th>
          ))}
          <th className="text-right font-semibold text-ink">a piece</th>
        </tr>
      </thead>
      <tbody>
        {cost.parts.map((p) => (
          <tr key={p.part}>
            <td className="rule max-w-40 truncate py-1">{p.name}</td>
            <td className="rule num text-right">{p.pieces}</td>
            <td className="rule num text-right">{clock(p.seconds)}</td>
            <td className="rule num text-right">{clock(p.hand_seconds)}</td>
            {cost.lines.map((l) => (
              <td key={l.of} className="rule num text-right">
                {p.by_kind[l.of] === null ? "-" : p.by_kind[l.of]!.toFixed(2)}
              </td>
            ))}
            <td className="rule num text-right font-medium">
              {p.each === null ? "-" : money(p.each, currency)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
