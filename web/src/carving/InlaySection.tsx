import { type InlayView } from "../api/model";
import { bare, useUnit } from "../shared/lengths";

/** Section through board and plug: the board hatched one way, the plug the other, heights drawn larger than widths. */
export function Section({ view, busy }: { view: InlayView; busy: boolean }) {
  const { unit } = useUnit();
  const [x0, x1] = [view.x[0], view.x[view.x.length - 1]],
    low = -view.depth - 2.5,
    high = view.saw + 3;
  const W = 1000,
    H = 190,
    sx = W / (x1 - x0),
    sy = H / (high - low);
  const X = (x: number) => (x - x0) * sx,
    Y = (z: number) => H - (z - low) * sy;
  const line = (z: number[]) =>
    z.map((v, i) => `${i ? "L" : "M"}${X(view.x[i]).toFixed(1)} ${Y(v).toFixed(1)}`).join("");
  return (
    <figure className={busy ? "opacity-60" : ""} data-testid="inlay-section">
      <svg
        viewBox={`-6 -4 ${W + 12} ${H + 8}`}
        className="h-[190px] w-full"
        preserveAspectRatio="none"
        role="img"
        aria-label={`Section at Y ${view.y.toFixed(1)}: socket ${view.depth} deep, plug ${view.gap} above its floor`}
      >
        <defs>
          <pattern
            id="hatch-board"
            width="7"
            height="7"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <path d="M0 0V7" stroke="#7c6a4a" strokeWidth="1.1" />
          </pattern>
          <pattern
            id="hatch-plug"
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(-45)"
          >
            <path d="M0 0V9" stroke="#1c4e49" strokeWidth="1.6" />
          </pattern>
        </defs>
        <path
          d={`${line(view.socket)}L${X(x1)} ${H}L${X(x0)} ${H}Z`}
          fill="url(#hatch-board)"
          stroke="#21262a"
          strokeWidth="1.5"
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={`${line(view.plug)}L${X(x1)} 0L${X(x0)} 0Z`}
          fill="url(#hatch-plug)"
          stroke="#1c4e49"
          strokeWidth="1.5"
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={`M0 ${Y(view.saw / 2)}H${W}`}
          stroke="#a92f22"
          strokeWidth="1.3"
          strokeDasharray="10 5 2 5"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="flex flex-wrap justify-center gap-x-5 text-small">
        <span>plug above, turned over</span>
        <span className="text-stop">saw here</span>
        <span>board below</span>
        <span className="label">heights drawn {(sy / sx).toFixed(0)} times larger than widths</span>
        <span className="num">Y {bare(view.y, unit, 1)}</span>
      </figcaption>
    </figure>
  );
}
