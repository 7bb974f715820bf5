import { type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";

import type { CutMoment, Fixing, Part, Piece, Screw, Stock, XY } from "../api/model";
import { FrameMark, useChoosingKeys, useFrame } from "../choosing/useFrame";
import { HoldScale } from "../holding/HoldScale";
import { HoldPatterns } from "../holding/grades";
import { IndexLayer } from "../indexing/IndexLayer";
import { MeasureLayer, outlinesOf } from "../measuring/MeasureLayer";
import { useMeasuring } from "../measuring/useMeasuring";
import { inUnit } from "../shared/Tokens";
import { bare, useUnit } from "../shared/lengths";
import { TurnLayer } from "../turning/TurnLayer";
import { CutLayer, type CutPicture, type Seen, useCut } from "./CutLayer";
import { OverLayer, ScrewsLayer, UnderLayer, useFixingHandles } from "./FixingsLayer";
import { LabelsLayer } from "./LabelsLayer";
import { PiecesLayer } from "./PiecesLayer";
import { Rulers, ticks } from "./Rulers";
import { type OnStart, StartsLayer } from "./StartsLayer";
import { addTab, type OnTabs, TabsLayer } from "./TabsLayer";
import { WayLayer } from "./WayLayer";
import { type Kept, STEP, useCamera } from "./camera";
import { toPart } from "./collisions";
import { useDraggedPiece } from "./draggedPiece";
import { useHands } from "./hands";
import type { Box } from "./labels";
import { laidTransform, onSheet, onTable } from "./laid";
import { Bubble, Datum } from "./marks";
import { paintTable } from "./paint";
import { type Given, type Shown, tellsHold, useLying } from "./shown";

type Props = Given & {
  /** What one looks at, kept from station to station. */
  look: { kept: Kept; keep: (k: Kept) => void };
  /** Of long stock: at which of its positions it lies, from 1. */
  position?: number;
  sketch?: XY[];
  onSketch?: (p: XY) => void;
  onMove?: (piece: Piece) => void;
  /** Several pieces are moved or turned in one edit. */
  onMoveAll?: (pieces: Piece[], does: "moved" | "turned") => void;
  /** As many more of the pieces are laid, so far to the side. */
  onMore?: (pieces: Piece[]) => void;
  onTabs?: OnTabs;
  onStart?: OnStart;
  onScrews?: (s: Screw[]) => void;
  onFixings?: (f: Fixing[]) => void;
  /** The sheet as it is cut, in place of what the pieces are filled with. */
  picture?: CutPicture;
  /** Places of the sheet that are spoken of. */
  places?: XY[];
  /** The cutter at the moment on the tape. */
  moment?: CutMoment | null;
  /** What is told of the place under the pointer. */
  under?: (at: XY | null) => React.ReactNode;
  /** What is drawn over the pieces, in the sheet's coordinates; ``k``: pixels a millimetre. */
  layer?: (k: number) => React.ReactNode;
};

/** The machine's table to scale, seen from where the operator stands: canvas for what is only looked at, SVG for what is grabbed. */
export function TableView(props: Props) {
  const lying = useLying(props);
  return lying.stock ? (
    <LaidTable {...props} lying={{ ...lying, stock: lying.stock }} />
  ) : (
    <div className="grid h-full place-items-center text-quiet">
      No sheet is on the table. Choose one at Stock & table.
    </div>
  );
}

type Lying = Omit<ReturnType<typeof useLying>, "stock"> & { stock: Stock };

const NOBODY = () => {};

function LaidTable({ lying, ...props }: Props & { lying: Lying }) {
  const { setup, station, copy, time, preview, selected, onSelect, sketch, onSketch, look } = props;
  const { unit } = useUnit();
  const box = useRef<HTMLDivElement>(null);
  const { camera, size, zoom } = useCamera(box, look, setup, lying.stock);
  const shown: Shown = {
    ...lying,
    ...{ setup, station, copy, time, selected, onSelect, camera },
    chosen: props.chosen ?? [],
    onChoose: props.onChoose ?? NOBODY,
    preview: !!preview,
    asCut: false,
    px: (p) => {
      const [x, y] = onTable(p, setup);
      return [camera.x + x * camera.k, camera.y - y * camera.k];
    },
  };
  const cut = useCut(shown, size, props.picture);
  shown.asCut = !!cut;
  const at = (e: { clientX: number; clientY: number }): XY => {
    const r = box.current!.getBoundingClientRect();
    return onSheet(
      [(e.clientX - r.left - camera.x) / camera.k, (camera.y - (e.clientY - r.top)) / camera.k],
      setup,
    );
  };
  const { grip, ...hands } = useHands({ box, camera, keep: look.keep, at });
  const [hover, setHover] = useState<XY | null>(null);
  const measuring = useMeasuring({
    make: () => outlinesOf(shown),
    of: [shown.pieces, shown.parts, shown.stock],
    scale: () => camera.k,
  });
  const frame = useFrame(shown, grip);
  useChoosingKeys(shown, props.onMore);
  const covered = useCovered(box, [size, station, setup.sheets.length, tellsHold(shown)]);
  const { stock } = lying;
  return (
    <div
      ref={box}
      className={`relative h-full w-full touch-none select-none overflow-hidden ${measuring.on ? "cursor-crosshair" : ""}`}
      data-testid="table"
      {...hands}
      onPointerDown={(e) => {
        if (sketch && onSketch) onSketch(corner(at(e), stock));
        else if (!(e.target as Element).closest("button")) {
          const empty = !(e.target as Element).closest("[data-grab]");
          if (empty && frame.take(e, at(e))) return;
          if (empty) onSelect(null);
          hands.onPointerDown(e);
        }
      }}
      onMouseDownCapture={(e) => measuring.on && e.preventDefault()}
      onPointerDownCapture={(e) => {
        // what is clicked while measuring is a place, not a piece; two fingers still move the table
        if (!measuring.on || !e.isPrimary || (e.target as Element).closest("button")) return;
        e.stopPropagation();
        measuring.click(at(e));
      }}
      onPointerMove={(e) => {
        setHover(at(e));
        if (measuring.on) measuring.move(at(e));
        hands.onPointerMove(e);
      }}
      onPointerLeave={() => {
        setHover(null);
        hands.onPointerLeave();
      }}
    >
      <Painted shown={shown} size={size} />
      <Drawing
        {...props}
        shown={shown}
        size={size}
        cut={cut}
        covered={covered}
        grip={grip}
        at={at}
        frame={frame.held}
      />
      {measuring.on && (
        <svg className="pointer-events-none absolute inset-0 h-full w-full">
          <MeasureLayer px={shown.px} {...measuring.shown} width={size[0]} />
        </svg>
      )}
      <LookKeys zoom={zoom} keep={look.keep} measuring={measuring} />
      {tellsHold(shown) && <HoldScale least={time === null} />}
      {hover && (
        <div
          data-testid="pointer"
          className="num pointer-events-none absolute right-2 top-10 bg-paper/85 px-1 text-fine"
        >
          {bare(hover[0], unit, unit === "mm" ? 0 : 2)}, {bare(hover[1], unit, unit === "mm" ? 0 : 2)} {unit}
          {props.under?.(hover)}
        </div>
      )}
    </div>
  );
}

/** A corner that is sketched lies on the sheet, to a whole millimetre. */
const corner = ([x, y]: XY, { width, height }: Stock): XY => [
  Math.min(width, Math.max(0, Math.round(x))),
  Math.min(height, Math.max(0, Math.round(y))),
];

/** Boxes of what lies over the drawing, in its pixels: no name is written under them. */
function useCovered(box: RefObject<HTMLDivElement | null>, when: unknown[]): Box[] {
  const [covered, set] = useState<Box[]>([]);
  const key = JSON.stringify(when);
  useLayoutEffect(() => {
    const el = box.current!,
      r = el.getBoundingClientRect();
    const over = [...(el.parentElement ?? el).querySelectorAll("[data-over]")];
    set(
      over.map((o): Box => {
        const b = o.getBoundingClientRect();
        return [b.left - r.left, b.top - r.top, b.right - r.left, b.bottom - r.top];
      }),
    );
  }, [box, key]);
  return covered;
}

function LookKeys({
  zoom,
  keep,
  measuring,
}: {
  zoom: (by: number) => void;
  keep: (k: Kept) => void;
  measuring: { on: boolean; turn: () => void };
}) {
  return (
    <div data-over className="absolute right-2 top-2 flex gap-1 text-small" role="group" aria-label="Look">
      <button className="key !px-2.5 !py-0" aria-label="nearer" title="nearer (+)" onClick={() => zoom(STEP)}>
        +
      </button>
      <button
        className="key !px-2.5 !py-0"
        aria-label="farther"
        title="farther (-)"
        onClick={() => zoom(1 / STEP)}
      >
        −
      </button>
      <button className="key !py-0" onClick={() => keep("sheet")}>
        Sheet
      </button>
      <button className="key !py-0" onClick={() => keep("table")}>
        Table
      </button>
      <button
        className={`${measuring.on ? "key-strong" : "key"} !py-0`}
        aria-pressed={measuring.on}
        title="measure: two clicks (D); Esc takes the measures away"
        onClick={measuring.turn}
      >
        Measure
      </button>
    </div>
  );
}

/** What is only looked at. */
function Painted({ shown, size }: { shown: Shown; size: XY }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { unit } = useUnit();
  const { setup, stock, station, plan, pieces, time, preview, camera } = shown;
  useEffect(() => {
    const { width, height } = setup.machine;
    if (canvas.current && size[0] > 0)
      paintTable(canvas.current, shown, size, {
        x: ticks(width, camera.k, unit),
        y: ticks(height, camera.k, unit),
      });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is painted, not the object that holds it
  }, [
    size,
    camera.k,
    camera.x,
    camera.y,
    setup,
    stock,
    station,
    plan,
    pieces,
    time,
    preview,
    shown.asCut,
    unit,
  ]);
  return <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden />;
}

type DrawingProps = Props & {
  shown: Shown;
  size: XY;
  /** The picture of the sheet as it is cut. */
  cut: Seen | null;
  covered: Box[];
  frame: [XY, XY] | null;
  grip: ReturnType<typeof useHands>["grip"];
  at: (e: { clientX: number; clientY: number }) => XY;
};

/** What is grabbed, chosen and named. */
function Drawing(props: DrawingProps) {
  const { shown, size, cut, covered, grip, at, sketch, onMove, onTabs, onStart, onScrews, onFixings } = props;
  const { unit } = useUnit();
  const { setup, stock, station, camera, pieces, px } = shown;
  const { dragged, take } = useDraggedPiece(shown, grip, at, onMove, props.onMoveAll);
  const handles = useFixingHandles(shown, grip, at, onScrews, onFixings);
  const { k } = camera,
    zero = px(stock.zero_at);
  const twice = (p: Piece, part: Part, e: React.MouseEvent) => {
    if (station === "cuts" && onTabs) addTab(shown, p, part, toPart(at(e), p), onTabs);
  };
  return (
    <svg
      className="absolute inset-0 h-full w-full"
      role="group"
      aria-label={`Table of ${setup.machine.name} with ${stock.name}, ${pieces.length} pieces`}
    >
      <Patterns k={k} />
      <g transform={`translate(${camera.x} ${camera.y}) scale(${k} ${-k}) ${laidTransform(setup)}`}>
        {cut && <CutLayer seen={cut} stock={stock} />}
        <UnderLayer setup={setup} handles={handles} />
        {/* a point that is clicked chooses no piece */}
        <g pointerEvents={sketch ? "none" : undefined}>
          <PiecesLayer
            shown={shown}
            dragged={dragged}
            take={take}
            onMove={onMove}
            onMoveAll={props.onMoveAll}
            onTwice={twice}
          />
        </g>
        <TurnLayer {...{ setup, stock, k }} at={props.copy} />
        <IndexLayer {...{ setup, stock, k }} copy={props.copy} position={props.position} />
        {props.layer?.(k)}
        {cut && props.places && <PlaceMarks places={props.places} k={k} />}
        {props.frame && <FrameMark of={props.frame} k={k} />}
        {sketch && <SketchMarks points={sketch} k={k} />}
        {props.moment && <WayLayer moment={props.moment} k={k} />}
        <OverLayer setup={setup} handles={handles} k={k} />
        <ScrewsLayer shown={shown} handles={handles} />
      </g>
      <LabelsLayer shown={shown} dragged={dragged} covered={covered} />
      {(station === "cuts" || (station === "prove" && !shown.asCut)) && (
        <TabsLayer shown={shown} grip={grip} onTabs={onTabs} />
      )}
      {station === "cuts" && onStart && <StartsLayer shown={shown} grip={grip} onStart={onStart} />}
      <Datum x={zero[0]} y={zero[1]} z={setup.machine.head ? null : setup.z_zero} />
      {station === "stock" && <ZoneNames shown={shown} />}
      <Rulers
        camera={camera}
        size={size}
        unit={unit}
        x={ticks(setup.machine.width, k, unit)}
        y={ticks(setup.machine.height, k, unit)}
      />
      {dragged && (
        <Bubble
          at={[px(dragged.hand)[0] + 16, px(dragged.hand)[1] - 16]}
          text={
            (dragged.trouble && inUnit(dragged.trouble.text, unit)) ??
            `${bare(dragged.piece.x - dragged.was.x, unit)}, ${bare(dragged.piece.y - dragged.was.y, unit)}${dragged.contact ? ", in contact" : ""}`
          }
          bad={!!dragged.trouble}
          width={size[0]}
        />
      )}
    </svg>
  );
}

const Patterns = ({ k }: { k: number }) => (
  <defs>
    <pattern id="at-fault" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
      <rect width="7" height="7" fill="#f7e3dd" />
      <path d="M0 0V7" stroke="#a92f22" strokeWidth="3" />
    </pattern>
    <HoldPatterns name="table" k={k} />
    <pattern id="fixing-cover" width={10 / k} height={10 / k} patternUnits="userSpaceOnUse">
      <path d={`M0 ${10 / k}L${10 / k} 0`} stroke="#7a7058" strokeWidth={1 / k} />
    </pattern>
  </defs>
);

/** The outline of a remnant as it is drawn. */
const SketchMarks = ({ points, k }: { points: XY[]; k: number }) => (
  <>
    {points.length > 0 && (
      <polyline
        points={points.map((q) => q.join(",")).join(" ")}
        fill="rgba(28,78,73,.12)"
        stroke="#1c4e49"
        strokeWidth={2.4}
        vectorEffect="non-scaling-stroke"
      />
    )}
    {points.map((q, i) => (
      <circle key={i} cx={q[0]} cy={q[1]} r={4 / k} fill="#1c4e49" />
    ))}
  </>
);

/** A ring about every place that is spoken of. */
const PlaceMarks = ({ places, k }: { places: XY[]; k: number }) => (
  <g fill="none" stroke="#8a5a00" strokeWidth={1.8 / k} pointerEvents="none" data-testid="places">
    {places.map(([x, y], i) => (
      <circle key={i} cx={x} cy={y} r={7 / k} />
    ))}
  </g>
);

const ZoneNames = ({ shown: { setup, camera } }: { shown: Shown }) =>
  setup.machine.zones.map((z) => (
    <text
      key={z.id}
      x={camera.x + z.rect[0] * camera.k + 9}
      y={camera.y - z.rect[3] * camera.k + 17}
      fontSize={12}
      className="haloed"
    >
      zone {z.id} {setup.zones_on.includes(z.id) ? "on" : "off"}
    </text>
  ));
