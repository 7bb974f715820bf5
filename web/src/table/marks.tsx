/** Small marks of the drawing, in pixels of the window. */

export function Datum({ x, y, z }: { x: number; y: number; z: string | null }) {
  return (
    <g pointerEvents="none" aria-label="datum">
      <path d={`M${x} ${y}h46M${x} ${y}v-46`} stroke="#21262a" strokeWidth={2.4} />
      <circle cx={x} cy={y} r={6.5} fill="#fff" stroke="#21262a" strokeWidth={2.4} />
      <text x={x + 10} y={y + 15} fontSize={12} fontWeight={600} className="haloed-board">
        X0 Y0{z && `, Z0 ${z === "bed" ? "on the bed" : "on top"}`}
      </text>
    </g>
  );
}

export const LockMark = ({ x, y }: { x: number; y: number }) => (
  <g transform={`translate(${x} ${y})`} pointerEvents="none" aria-label="locked">
    <circle r={6} fill="#21262a" />
    <path d="M0 -6V-13M-3.4 -10.5H3.4" stroke="#21262a" strokeWidth={2} />
  </g>
);

export function Bubble({
  at: [x, y],
  text,
  bad,
  width,
}: {
  at: [number, number];
  text: string;
  bad: boolean;
  width: number;
}) {
  const w = text.length * 7 + 18,
    left = Math.min(x, width - w - 4);
  return (
    <g pointerEvents="none" data-testid="drag-says">
      <rect
        x={left}
        y={y - 17}
        width={w}
        height={24}
        fill="#fffdf8"
        stroke={bad ? "#a92f22" : "#1c4e49"}
        strokeWidth={1.6}
      />
      <text x={left + 9} y={y} fontSize={13.5} fontWeight={500} fill={bad ? "#a92f22" : "#21262a"}>
        {text}
      </text>
    </g>
  );
}
