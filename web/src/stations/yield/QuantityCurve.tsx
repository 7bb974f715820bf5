import { money } from "../../shared/money";
import type { Outcome } from "./useWhatIfs";

type Quantity = Outcome["curve"][number];
const WIDE = 620,
  HIGH = 170,
  LEFT = 76,
  LOW = 30;

/** The order-quantity curve as steps: each tread is one price; the number a step ends at is the last that costs no more. */
export function QuantityCurve({ curve, currency }: { curve: Quantity[]; currency: string }) {
  const first = curve[0].quantity,
    last = curve[curve.length - 1].quantity;
  const most = Math.max(...curve.map((q) => q.cost)) || 1;
  const x = (n: number) => LEFT + ((n - first) / Math.max(1, last - first + 1)) * (WIDE - LEFT - 10);
  const y = (c: number) => HIGH - LOW - (c / most) * (HIGH - LOW - 16);
  const steps = treads(curve);
  const line = steps.map((t, i) => `${i ? "L" : "M"}${x(t.from)} ${y(t.cost)}H${x(t.to + 1)}`).join("");
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="mt-2 max-h-[220px] w-full max-w-[760px]"
      role="img"
      aria-label={steps
        .map((t) => `${t.from} to ${t.to}: ${t.sheets} sheets, ${money(t.cost, currency)}`)
        .join("; ")}
    >
      <path d={`M${LEFT} 8V${HIGH - LOW}H${WIDE - 6}`} fill="none" stroke="#21262a" />
      <path d={line} fill="none" stroke="#1c4e49" strokeWidth="3" />
      {steps.map((t) => (
        <g key={t.from}>
          <text x={LEFT - 6} y={y(t.cost) + 4} textAnchor="end" fontSize="12" className="num">
            {money(t.cost, "", 2)}
          </text>
          <text
            x={(x(t.from) + x(t.to + 1)) / 2}
            y={y(t.cost) - 6}
            textAnchor="middle"
            fontSize="12"
            fill="#21262a"
          >
            {t.sheets} sheet{t.sheets === 1 ? "" : "s"}
          </text>
          <text
            x={x(t.to + 0.5)}
            y={HIGH - 12}
            textAnchor="middle"
            fontSize="13"
            fontWeight={600}
            className="num"
          >
            {t.to}
          </text>
          <path d={`M${x(t.to + 1)} ${y(t.cost)}V${HIGH - LOW}`} stroke="#8f8367" strokeDasharray="3 4" />
        </g>
      ))}
      <text x={LEFT} y={HIGH - 12} textAnchor="middle" fontSize="12" fill="#625d53" className="num">
        {first}
      </text>
    </svg>
  );
}

/** Stretches of quantities that cost the same. */
function treads(curve: Quantity[]) {
  const out: { from: number; to: number; cost: number; sheets: number }[] = [];
  for (const q of curve) {
    const now = out[out.length - 1];
    if (now && now.cost === q.cost && now.sheets === q.sheets) now.to = q.quantity;
    else out.push({ from: q.quantity, to: q.quantity, cost: q.cost, sheets: q.sheets });
  }
  return out;
}
