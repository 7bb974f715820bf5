import { useId } from "react";

import type { FitLine, Lot } from "./rack";

/** Grounds that tell wood, plastic and metal apart; remnants are paler. */
const GROUND: Record<string, [string, string]> = {
  wood: ["#e9dcbf", "#f4eedd"],
  plastic: ["#dbe5e6", "#edf2f1"],
  aluminium: ["#d3d4d3", "#e8e8e5"],
  steel: ["#c3c6c8", "#dfe0df"],
};
const SHEEN: Record<string, string> = { plastic: "#f6fafa", aluminium: "#c2c3c2", steel: "#adb1b4" };

type Props = {
  family: string;
  lot: Lot;
  scale: number;
  fit?: FitLine;
  size?: { width: number; height: number; outline?: string };
};

/** A sheet of a lot to scale: outline, grain, flaws, and what was asked for where it fits. ``scale``: points of the screen to a mm. */
export function LotDrawing({ lot, family, scale, fit, size }: Props) {
  const id = useId().replace(/:/g, "");
  const k = 1 / scale;
  const corners: [number, number][] =
    lot.outline && lot.outline.length > 2
      ? (lot.outline as [number, number][])
      : [
          [0, 0],
          [lot.width, 0],
          [lot.width, lot.height],
          [0, lot.height],
        ];
  const said = `${lot.label}: ${lot.outline?.length ? `${lot.outline.length} corners` : "rectangle"}${lot.flaws?.length ? `, ${lot.flaws.length} flawed` : ""}`;
  return (
    <svg
      width={(lot.width + 4 * k) * scale}
      height={(lot.height + 4 * k) * scale}
      viewBox={`${-2 * k} ${-lot.height - 2 * k} ${lot.width + 4 * k} ${lot.height + 4 * k}`}
      className="max-w-full"
      role="img"
      aria-label={said}
    >
      <defs>
        <pattern
          id={id}
          width={10 * k}
          height={10 * k}
          patternUnits="userSpaceOnUse"
          patternTransform={lot.grain === 90 ? "rotate(90)" : undefined}
        >
          <rect width={10 * k} height={10 * k} fill={(GROUND[family] ?? GROUND.wood)[lot.remnant ? 1 : 0]} />
          {SHEEN[family] && (
            <path
              d={family === "plastic" ? `M0 ${10 * k}L${10 * k} 0` : `M0 ${5 * k}H${10 * k}`}
              stroke={SHEEN[family]}
              strokeWidth={(family === "plastic" ? 2.2 : 0.6) * k}
            />
          )}
          {lot.grain !== null && (
            <path d={`M0 ${3 * k}H${10 * k}M0 ${7.5 * k}H${6 * k}`} stroke="#b8a577" strokeWidth={0.7 * k} />
          )}
        </pattern>
      </defs>
      <g transform="scale(1 -1)">
        <polygon
          points={corners.map((c) => c.join(",")).join(" ")}
          fill={`url(#${id})`}
          stroke="#21262a"
          strokeWidth={1.4 * k}
          strokeDasharray={lot.remnant ? `${6 * k} ${3 * k}` : undefined}
        />
        {lot.flaws?.map((f, i) => (
          <path
            key={i}
            d={`M${f.x} ${f.y}h${f.width}v${f.height}h${-f.width}Zl${f.width} ${f.height}M${f.x} ${f.y + f.height}l${f.width} ${-f.height}`}
            fill="none"
            stroke="#a92f22"
            strokeWidth={1.2 * k}
          />
        ))}
        {fit && size && (
          <path
            d={size.outline ?? `M0 0H${size.width}V${size.height}H0Z`}
            fillRule="evenodd"
            transform={`translate(${fit.x} ${fit.y}) rotate(${fit.rotation})${fit.mirrored ? " scale(-1 1)" : ""}`}
            fill="#1c4e49"
            fillOpacity=".28"
            stroke="#1c4e49"
            strokeWidth={1.6 * k}
          />
        )}
      </g>
    </svg>
  );
}
