import type { Setup, Stock, Turned } from "../api/model";

/** The axis a sheet is turned about, its dowels and the corner that is marked, in the sheet's coordinates. */
export function TurnLayer({ setup, stock, k, at }: { setup: Setup; stock: Stock; k: number; at: number }) {
  const { turned } = setup;
  if (!turned) return null;
  return turned.turn.registration.kind === "jig" ? (
    <JigCorners turned={turned} on={[stock.id, at]} k={k} />
  ) : (
    <TurnMarks turned={turned} stock={stock} k={k} />
  );
}

/** The corner of each piece that comes into the jig; where it lies there, the corner itself. */
function JigCorners({ turned, on, k }: { turned: Turned; on: [string, number]; k: number }) {
  const r = 5 / k;
  const here =
    turned.number === 1 ? turned.corners.filter((c) => c.sheet === on[0] && c.sheet_copy === on[1]) : [];
  return (
    <g pointerEvents="none" aria-label="Corners that come into the jig">
      {here.map((c) => (
        <circle key={c.piece} data-testid="jig-corner" cx={c.x} cy={c.y} r={r} fill="#a92f22">
          <title>mark this corner: it comes into the jig</title>
        </circle>
      ))}
      {turned.number === 2 && (
        <path
          d={`M${-3 * r} 0H${8 * r}M0 ${-3 * r}V${8 * r}`}
          stroke="#a92f22"
          strokeWidth={2.4}
          vectorEffect="non-scaling-stroke"
        />
      )}
    </g>
  );
}

const MARK = ["mark this corner", "the marked corner, underneath", "the marked corner, on top"];

function TurnMarks({ turned, stock, k }: { turned: Turned; stock: Stock; k: number }) {
  const { width: w, height: h } = stock,
    px = 1 / k,
    under = turned.number === 2;
  const right = turned.mark.includes("right"),
    upper = turned.mark.includes("upper"),
    x = right ? w : 0,
    y = upper ? h : 0,
    a = Math.min(26 * px, w / 4, h / 4);
  return (
    <g pointerEvents="none" aria-label="How the sheet is turned">
      <path
        d={
          turned.turn.axis === "x"
            ? `M${-14 * px} ${h / 2}H${w + 14 * px}`
            : `M${w / 2} ${-14 * px}V${h + 14 * px}`
        }
        stroke="#1c4e49"
        strokeWidth={1.4}
        strokeDasharray="12 4 2 4"
        vectorEffect="non-scaling-stroke"
      />
      <path
        d={`M${x} ${y}h${right ? -a : a}L${x} ${y + (upper ? -a : a)}Z`}
        fill={under ? "none" : "#a92f22"}
        stroke="#a92f22"
        strokeDasharray={under ? "4 3" : undefined}
        strokeWidth={1.6}
        vectorEffect="non-scaling-stroke"
      >
        <title>{MARK[turned.number - 1]}</title>
      </path>
      {turned.dowels.map((d) => {
        const r = Math.max(d.hole / 2, 3 * px);
        return (
          <g key={d.id} data-testid="dowel" transform={`translate(${d.x} ${d.y})`}>
            <circle
              r={r}
              fill={d.here ? "#21262a" : "#fffdf8"}
              stroke="#21262a"
              strokeWidth={1.4}
              vectorEffect="non-scaling-stroke"
            />
            <path
              d={`M${-r * 1.9} 0H${r * 1.9}M0 ${-r * 1.9}V${r * 1.9}`}
              stroke={d.here ? "#fffdf8" : "#21262a"}
              strokeWidth={0.9}
              vectorEffect="non-scaling-stroke"
            />
            <title>{`dowel ${d.id}`}</title>
          </g>
        );
      })}
    </g>
  );
}
