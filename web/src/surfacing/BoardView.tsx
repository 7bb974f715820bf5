import { useMemo, useRef, useState } from "react";

import { type BenchLine, type BenchView } from "../api/model";
import { MeasureOver } from "../measuring/MeasureOver";
import { bare, length, useUnit } from "../shared/lengths";
import { useRoom } from "../shared/useRoom";
import { Legend, LayerKeys } from "./BoardKeys";
import { Ground, Hatches, Marks, Rows } from "./BoardLayers";
import { Heights, SquareNumbers } from "./BoardNumbers";
import { boardOutlines } from "./boardOutlines";
import { placed } from "./boardPlace";
import { mapImage } from "./heightMap";
import { type Tab } from "./tab";

/** The board on its table: the map of its heights, the rows of the first pass, what stays uncut. */
export function BoardView({ view, tab, others }: { view: BenchView; tab: Tab; others: BenchLine[] }) {
  const { unit } = useUnit();
  const { box, room } = useRoom(),
    [layer, setLayer] = useState(0),
    [whole, setWhole] = useState(false),
    [grid, setGrid] = useState(false);
  const drawing = useRef<SVGGElement>(null);
  const at = placed(view, others, room, whole);
  const { area, k, W, H } = at,
    b = view.bench.board,
    flat = view.flatness;
  const map = useMemo(() => flat && mapImage(flat.z), [flat]);
  const shown = view.layers[Math.min(layer, view.layers.length - 1)];
  const quiet = tab === "flat" || tab === "ledger";
  return (
    <div ref={box} className="relative min-h-0 overflow-hidden">
      <LayerKeys
        view={view}
        layer={layer}
        setLayer={setLayer}
        whole={whole}
        setWhole={setWhole}
        grid={grid}
        setGrid={setGrid}
        quiet={quiet}
      />
      <svg
        className="absolute"
        style={{ left: (room[0] - W) / 2, top: 22 + (room[1] - H) / 2 - 6 }}
        width={W}
        height={H}
        viewBox={`0 0 ${W} ${H}`}
        role="img"
        data-testid="board-view"
        aria-label={`${b.name}, ${bare(b.width, unit)} by ${length(b.height, unit)}${flat ? `, heights from ${bare(flat.low.z, unit)} to ${length(flat.high.z, unit)}` : ""}${view.uncut.length ? `, ${view.uncut.length} places stay uncut` : ""}`}
      >
        <Hatches />
        <g ref={drawing} transform={`translate(${-area[0] * k} ${area[3] * k}) scale(${k} ${-k})`}>
          <Ground at={at} map={map} faint={tab !== "flat"} grid={grid} />
          {!quiet && shown && <Rows runs={shown.runs} px={at.px} />}
          <Marks at={at} />
        </g>
        <SquareNumbers at={at} grid={grid} />
        {flat && <Heights at={at} all={tab === "flat"} />}
      </svg>
      <MeasureOver
        drawing={drawing}
        make={() => boardOutlines(at, quiet ? undefined : shown)}
        of={[view, others, shown, quiet, whole]}
      />
      <Legend view={view} flat={tab === "flat"} quiet={quiet} />
    </div>
  );
}
