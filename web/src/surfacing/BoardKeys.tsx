import { type BenchView } from "../api/model";
import { length, useUnit } from "../shared/lengths";
import { BANDS } from "./heightMap";

type Keys = {
  view: BenchView;
  layer: number;
  setLayer: (i: number) => void;
  whole: boolean;
  setWhole: (w: boolean) => void;
  grid: boolean;
  setGrid: (g: boolean) => void;
  quiet: boolean;
};

/** Which pass is shown, the board or all of its table, the squares. */
export function LayerKeys({ view, layer, setLayer, whole, setWhole, grid, setGrid, quiet }: Keys) {
  const m = view.machine;
  return (
    <div className="absolute left-3 top-2 z-10 flex flex-wrap items-center gap-1.5 text-small">
      {view.layers.length > 1 &&
        !quiet &&
        view.layers.map((l, i) => (
          <button
            key={l.name}
            className={`${i === Math.min(layer, view.layers.length - 1) ? "key-strong" : "key"} !py-0`}
            aria-pressed={i === layer}
            onClick={() => setLayer(i)}
          >
            {l.name.replace(/ of \d+/, "")}
          </button>
        ))}
      {m && (
        <button className="key !py-0" aria-pressed={whole} onClick={() => setWhole(!whole)}>
          {whole ? "Board" : "Whole table"}
        </button>
      )}
      <button
        className={`${grid ? "key-strong" : "key"} !py-0`}
        aria-pressed={grid}
        onClick={() => setGrid(!grid)}
      >
        Numbered grid
      </button>
    </div>
  );
}

/** The board's size and what the signs mean. */
export function Legend({ view, flat, quiet }: { view: BenchView; flat: boolean; quiet: boolean }) {
  const { unit } = useUnit();
  const b = view.bench.board;
  return (
    <p className="absolute bottom-1.5 left-0 right-0 flex flex-wrap justify-center gap-x-5 text-small text-quiet">
      <span className="num">
        {length(b.width, unit, 0)} x {length(b.height, unit, 0)}
      </span>
      {view.flatness && flat && (
        <span className="flex items-center gap-1">
          <span>low</span>
          {BANDS.map((c) => (
            <i key={c} className="inline-block h-3 w-5 border border-line" style={{ background: c }} />
          ))}
          <span>high</span>
        </span>
      )}
      {!quiet && (
        <>
          <span>● goes down where nothing stands</span>
          {view.layers.some((l) => l.runs.some((r) => !r.outside)) && <span>○ ramps in</span>}
        </>
      )}
      {view.uncut.length > 0 && <span className="text-stop">hatched red: stays uncut</span>}
      {view.shifts.length > 1 && <span>{view.shifts.length} shifts, overlap between the dashed lines</span>}
    </p>
  );
}
