import { useJobView, useKept } from "../job/view";
import { ShortPick } from "../shared/ShortPick";
import { useUnit } from "../shared/lengths";
import { MomentSaid } from "./MomentSaid";
import { LEFT, RIGHT, type Scale } from "./Strip";
import { inShop, NAMES, path, type Row, reach, rounded, said, valueAt } from "./load";
import { useLoads } from "./useLoads";
import { useMoment } from "./useMoment";

const H = 54,
  TOP = 6;

/** What every moment asks of cutter, spindle and machine, beneath the tape and on its scale. */
export function LoadStrip({ width, total, X }: Scale) {
  const { time, setTime } = useJobView(),
    { unit } = useUnit();
  const [of, setOf] = useKept<Row["of"]>("load-of", "removal");
  const loads = useLoads(),
    moment = useMoment();
  const row = loads.data?.rows.find((r) => r.of === of);
  const top = row ? reach(row) : 1,
    Y = (v: number) => TOP + (H - TOP) * (1 - Math.min(v / top, 1));
  const now = row && time !== null ? valueAt(row, time, total) : null;
  return (
    <div className="border-t border-line" aria-label="Load along the tape" role="group">
      <div className="flex items-baseline gap-2 px-3 text-small">
        <ShortPick
          label="what the strip shows"
          value={of}
          options={(Object.keys(NAMES) as Row["of"][]).map((k) => [k, NAMES[k]])}
          onPick={setOf}
          look="token"
        />
        <span role="status" className="min-w-0 truncate text-quiet" data-testid="load-now">
          {loads.isPending
            ? "measuring it in the sheet ..."
            : loads.error
              ? loads.error.message
              : row && said(row, now, time, unit)}
        </span>
        {moment && <MomentSaid moment={moment} />}
      </div>
      <svg
        width={width}
        height={H + 4}
        className="block cursor-ew-resize"
        role="img"
        aria-label={row ? `${NAMES[of]}: at most ${inShop(of, top, unit)}` : NAMES[of]}
        onPointerDown={(e) => {
          const r = e.currentTarget.getBoundingClientRect();
          setTime(
            Math.min(total, Math.max(0, ((e.clientX - r.left - LEFT) / (width - LEFT - RIGHT)) * total)),
          );
        }}
      >
        <path d={`M${LEFT} ${H}H${width - RIGHT}`} stroke="#b9ae98" />
        {row && (
          <>
            <path d={path(row, total, X, Y, H)} fill="#78989a" stroke="#345c64" strokeWidth={0.8} />
            {row.limits.map((l) => (
              <g key={l.begins} stroke="#21262a" strokeDasharray="5 3">
                {[l.least, l.most].map((v, i) =>
                  v !== null && v <= top ? (
                    <path key={i} d={`M${X(l.begins)} ${Y(v)}H${X(Math.min(l.ends, total))}`} />
                  ) : null,
                )}
              </g>
            ))}
            <text x={LEFT - 4} y={TOP + 9} fontSize={12} textAnchor="end" className="num">
              {rounded(of, top, unit)}
            </text>
          </>
        )}
        {time !== null && <path d={`M${X(time)} 0V${H}`} stroke="#a92f22" strokeWidth={2} />}
      </svg>
    </div>
  );
}
