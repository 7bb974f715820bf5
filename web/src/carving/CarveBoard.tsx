import { type RefObject, useRef, useState } from "react";

import { call } from "../api/client";
import { type CarvingView, type Job, type Part, type Setup, type XY } from "../api/model";
import { MeasureOver } from "../measuring/MeasureOver";
import { partOutlines } from "../measuring/segments";
import { Working } from "../shared/Working";
import { length, useUnit } from "../shared/lengths";
import { useRoom } from "../shared/useRoom";
import { Section } from "./InlaySection";
import { type CarveLook, chosen, stepOf, useCarving, useInlay, useStop } from "./carving";

type Stop = ReturnType<typeof useStop>["carving"];
type Stroke = { depth: number; width: number; at: XY };

/** The stroke under the pointer, asked for when it rests. */
function useStroke(job: Job, setup: Setup, part: Part | undefined) {
  const [stroke, setStroke] = useState<Stroke | null>(null),
    waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
  const leave = () => {
    clearTimeout(waiting.current);
    setStroke(null);
  };
  const ask = (x: number, y: number) => {
    clearTimeout(waiting.current);
    waiting.current = setTimeout(
      () =>
        call<Stroke | null>(
          `/jobs/${job.id}/carving/at?setup=${encodeURIComponent(setup.id)}&part=${part?.id}&x=${x.toFixed(2)}&y=${y.toFixed(2)}`,
        )
          .then(setStroke)
          .catch(() => setStroke(null)),
      60,
    );
  };
  return { stroke, ask, leave };
}

type Drawn = Setup["paths"][string][string][number];
type Over = {
  w: number;
  h: number;
  k: number;
  paths: Drawn[];
  own: string | undefined;
  places: CarvingView["places"];
  line: number | null;
  drawing: RefObject<SVGGElement | null>;
};

/** The section through an inlay, under the picture. */
function InlayUnder({
  seen,
  stop,
  height,
}: {
  seen: ReturnType<typeof useInlay>;
  stop: Stop;
  height: number;
}) {
  return (
    <div className="mt-7 w-full" style={{ height }}>
      {seen.error ? (
        <p role="alert" className="text-center text-stop">
          {(seen.error as Error).message}
        </p>
      ) : (
        <>
          {(seen.isFetching || stop.stopped) && <Working words="working out socket and plug" {...stop} />}
          {seen.data && <Section view={seen.data} busy={seen.isFetching} />}
        </>
      )}
    </div>
  );
}

/** How wide and deep the stroke under the pointer is. */
function Measured({ stroke, k, h }: { stroke: Stroke; k: number; h: number }) {
  const { unit } = useUnit();
  return (
    <p
      className="num pointer-events-none absolute z-10 -translate-x-1/2 whitespace-nowrap border border-ink bg-[#fffdf8] px-1.5 text-small shadow"
      role="status"
      style={{ left: stroke.at[0] * k, top: Math.max(0, (h - stroke.at[1]) * k - 34) }}
    >
      {length(stroke.width, unit)} wide, {length(stroke.depth, unit)} deep
    </p>
  );
}

function Caption({ w, h, deepest }: { w: number; h: number; deepest: number | undefined }) {
  const { unit } = useUnit();
  return (
    <figcaption className="label num absolute -bottom-6 inset-x-0 text-center">
      {length(w, unit, 0)} x {length(h, unit, 0)}
      {deepest !== undefined ? `; deepest ${length(deepest, unit)}; hover a stroke to measure it` : ""}
    </figcaption>
  );
}

function Waiting({ error, stop }: { error: Error | null; stop: Stop }) {
  return (
    <div className="absolute inset-x-0 top-1/2">
      {error ? (
        <p role="alert" className="text-center text-stop">
          {error.message}
        </p>
      ) : (
        <Working words="carving it" {...stop} />
      )}
    </div>
  );
}

/** The picture at an address; while it is made, or where there is none yet, what is waited for. */
function Face({
  address,
  name,
  error,
  stop,
}: {
  address: string;
  name: string;
  error: Error | null;
  stop: Stop;
}) {
  const [ready, setReady] = useState("");
  return (
    <>
      {address && (
        <img
          src={address}
          alt={`${name} as it will be carved, lit from the upper left`}
          className="h-full w-full drop-shadow-md"
          onLoad={() => setReady(address)}
          data-ready={ready === address}
          draggable={false}
        />
      )}
      {(!address || ready !== address) && <Waiting error={error} stop={stop} />}
    </>
  );
}

/** Over the picture: the bit's path, places that are spoken of, where the section goes through. */
function Overlay({ w, h, k, paths, own, places, line, drawing }: Over) {
  return (
    <svg
      className="pointer-events-none absolute inset-0"
      width={w * k}
      height={h * k}
      viewBox={`0 0 ${w} ${h}`}
      aria-hidden
    >
      <g ref={drawing} transform={`translate(0 ${h}) scale(1 -1)`}>
        {paths.map((p, i) => (
          <path
            key={i}
            d={p.d}
            fill="none"
            stroke={p.cutter === own ? "#12211f" : "#fffdf8"}
            strokeWidth={1.1 / k}
            strokeDasharray={p.cutter === own ? undefined : `${4 / k} ${2 / k}`}
          />
        ))}
        {places.map((pl) =>
          pl.at.map(([x, y], i) => (
            <g key={pl.rule + i} fill="none" stroke="#8a5a00" strokeWidth={2 / k}>
              <circle cx={x} cy={y} r={9 / k} />
              <path d={`M${x - 14 / k} ${y}H${x - 9 / k}M${x + 9 / k} ${y}H${x + 14 / k}`} />
            </g>
          )),
        )}
        {line !== null && (
          <path
            d={`M0 ${line}H${w}`}
            stroke="#a92f22"
            strokeWidth={1.6 / k}
            strokeDasharray={`${9 / k} ${4 / k} ${2 / k} ${4 / k}`}
          />
        )}
      </g>
    </svg>
  );
}

type Board = { job: Job; setup: Setup; look: CarveLook; setLook: (l: CarveLook) => void };

/** The face as it will be carved, lit from the side; over it the bit's path and the places that are spoken of,
 * or the section through an inlay. */
export function CarveBoard(props: Board) {
  const part = chosen(props.job, props.setup, props.look);
  if (!part)
    return (
      <p className="grid h-full place-items-center text-quiet">
        No part here has closed shapes to carve. Make a lettered board at Parts, or drop a drawing with
        letters.
      </p>
    );
  return <Carved {...props} part={part} />;
}

function Carved({ job, setup, look, setLook, part }: Board & { part: Part }) {
  const seen = useCarving(job, setup, part, look),
    inlay = useInlay(job, setup, part, look),
    stop = useStop(job, setup, part, look, setLook);
  const { box, room } = useRoom([900, 600]),
    { stroke, ask, leave } = useStroke(job, setup, part);
  const [w, h] = [part.box[2] - part.box[0], part.box[3] - part.box[1]],
    below = look.inlay ? 250 : 0;
  const k = Math.min((room[0] - 60) / w, (room[1] - 110 - below) / h);
  const address = `/api/jobs/${job.id}/carved.png?setup=${encodeURIComponent(setup.id)}&part=${part.id}&px=${Math.round(Math.min(1600, Math.max(600, w * k * 1.25)) / 100) * 100}&r=${seen.data?.digest ?? ""}`;
  const paths = Object.values(setup.paths)[0]?.[part.id]?.filter((p) => p.kind === "v-carve") ?? [];
  const step = stepOf(setup, part),
    drawing = useRef<SVGGElement>(null);
  return (
    <div
      ref={box}
      className="absolute inset-0 flex flex-col items-center justify-center gap-3 overflow-hidden p-3"
      data-testid="carve-board"
    >
      <div className="absolute left-3 top-2 flex gap-1.5 text-small">
        <button
          className={`${look.path ? "key-strong" : "key"} !py-0`}
          aria-pressed={look.path}
          onClick={() => setLook({ ...look, path: !look.path })}
        >
          The bit's path
        </button>
      </div>
      <figure
        className="relative cursor-crosshair"
        style={{ width: w * k, height: h * k }}
        onPointerMove={(e) => {
          const r = e.currentTarget.getBoundingClientRect();
          ask((e.clientX - r.left) / k, h - (e.clientY - r.top) / k);
        }}
        onPointerLeave={leave}
      >
        <Face
          address={seen.data && !stop.carving.stopped ? address : ""}
          name={part.name}
          error={seen.error}
          stop={stop.carving}
        />
        <Overlay
          w={w}
          h={h}
          k={k}
          paths={look.path ? paths : []}
          own={step?.cutter}
          places={seen.data?.places ?? []}
          line={look.inlay && inlay.data ? inlay.data.y : null}
          drawing={drawing}
        />
        {stroke && <Measured stroke={stroke} k={k} h={h} />}
        <Caption w={w} h={h} deepest={step?.depth} />
      </figure>
      <MeasureOver drawing={drawing} make={() => partOutlines(part)} of={[part]} />
      {look.inlay && <InlayUnder seen={inlay} stop={stop.inlay} height={below - 40} />}
    </div>
  );
}
