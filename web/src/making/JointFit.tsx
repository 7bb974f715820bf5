import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { Job, JointFitted, XY } from "../api/model";
import { bare, useUnit } from "../shared/lengths";

const ring = (points: XY[]) => `M${points.map((p) => p.join(" ")).join("L")}Z`;

/** How a joint's boards go together as they will be cut: figures, and a corner laid flat. */
export function JointFit({ job, drawing }: { job: Job; drawing: string }) {
  const { unit } = useUnit();
  const found = useQuery({
    queryKey: ["joints", job.id, job.revision],
    queryFn: () => call<JointFitted[]>(`/jobs/${job.id}/joints`),
    placeholderData: (was) => was,
  });
  const fit = found.data?.find((j) => j.drawing === drawing);
  if (!fit) return null;
  const [w, h] = fit.size,
    digits = unit === "mm" ? 2 : 4,
    tight = fit.wide > 0.02;
  return (
    <section className="mt-2 flex gap-3 border border-line bg-paper p-2" aria-label="Joint as cut">
      <div className="min-w-0 flex-1">
        <h3 className="font-semibold">Put together as cut</h3>
        <p className="num text-figure" data-testid="joint-fit">
          {tight
            ? `overlaps ${bare(fit.wide, unit, digits)} ${unit}`
            : `gaps ${[...new Set([fit.least_gap, fit.most_gap].map((v) => bare(v, unit, digits)))].join(" to ")} ${unit}`}
        </p>
        <p className="label">
          {tight
            ? "It does not go together. "
            : fit.pare > 1
              ? "Once the walls are pared nothing overlaps. "
              : "Nothing overlaps. "}
          {bare(fit.wanted, unit, digits)} {unit} wanted between sides.
          {fit.pare > 1 &&
            ` For the chisel: ${(fit.pare / 1000).toFixed(1)} cm³ on ${fit.walls} sloping walls.`}
        </p>
      </div>
      <svg
        className="max-h-40 w-24 shrink-0"
        viewBox={`-1 -1 ${w + 2} ${h + 2}`}
        role="img"
        aria-label="A corner laid flat: one board from the left, the other from the right"
      >
        <defs>
          <pattern
            id="both-want"
            width="3"
            height="3"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <path d="M0 0V3" stroke="#a92f22" strokeWidth="1.6" />
          </pattern>
        </defs>
        <g transform={`translate(0 ${h}) scale(1 -1)`} fillRule="evenodd" strokeWidth={1.4}>
          <path
            d={fit.first.map(ring).join("")}
            fill="#efe0bd"
            stroke="#21262a"
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={fit.second.map(ring).join("")}
            fill="#cbbd97"
            stroke="#21262a"
            strokeDasharray="5 2"
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={fit.common.map(ring).join("")}
            fill="url(#both-want)"
            stroke="#a92f22"
            vectorEffect="non-scaling-stroke"
          />
        </g>
      </svg>
    </section>
  );
}
