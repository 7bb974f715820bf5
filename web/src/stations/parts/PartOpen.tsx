import { useRef, useState } from "react";
import { useParams } from "react-router";

import { post } from "../../api/client";
import { type Edits } from "../../api/edits";
import {
  ROLES,
  type HealItem,
  type HealLine,
  type Job,
  type Judgement,
  type Part,
  type Picture,
  type Reading,
  type Role,
  type Setup,
  type XY,
  type Alteration,
} from "../../api/model";
import { useJudgement, useReading } from "../../api/queries";
import { MeasureOver } from "../../measuring/MeasureOver";
import { partOutlines } from "../../measuring/segments";
import { Reckon } from "../../reckonings/anywhere";
import { Choices } from "../../shared/Choices";
import { Pick } from "../../shared/Pick";
import { Snags } from "../../shared/Snags";
import { TabRow } from "../../shared/TabRow";
import { inUnit } from "../../shared/Tokens";
import { useEscape } from "../../shared/keys";
import { bare, length, LengthField, squareMetres, useUnit } from "../../shared/lengths";
import { BackDrawing } from "./BackDrawing";
import { OnFace } from "./OnFace";

const FACES: ["front" | "back", string][] = [
  ["front", "into the front"],
  ["back", "into the back"],
];

export type Look = { cutter: string | null; heal: string | null; hover: string | null };
const STYLES = ["dog-bone", "T-bone, long side", "T-bone, short side"];
export const FEATURE_DASH: Record<string, string> = {
  pocket: "",
  groove: "7 3",
  engraving: "2 3",
  drilling: "1 2",
  relief: "9 2 2 2",
};

const rowsPath = (i: HealItem) => {
  let d = `M${i.rows[0][0]} ${i.rows[0][1]}`;
  const n = i.rows.length;
  for (let k = 0; k < (i.closed ? n : n - 1); k++) {
    const [x0, y0, b] = i.rows[k],
      [x1, y1] = i.rows[(k + 1) % n];
    if (!b) {
      d += `L${x1} ${y1}`;
      continue;
    }
    const chord = Math.hypot(x1 - x0, y1 - y0),
      r = (chord * (1 + b * b)) / (4 * Math.abs(b));
    d += `A${r} ${r} 0 ${Math.abs(b) > 1 ? 1 : 0} ${b > 0 ? 1 : 0} ${x1} ${y1}`;
  }
  return d + (i.closed ? "Z" : "");
};

/** Width and height of a part, outside of it. */
function Extents({ box, pad, px }: { box: Part["box"]; pad: number; px: number }) {
  const { unit } = useUnit();
  const [x0, y0, x1, y1] = box,
    w = x1 - x0,
    h = y1 - y0;
  return (
    <>
      <g transform="scale(1 -1)">
        <g stroke="#625d53" strokeWidth={1} fill="none">
          {[[`M${x0} ${y0 - pad * 0.5}H${x1}`], [`M${x1 + pad * 0.5} ${y0}V${y1}`]].map(([d]) => (
            <path key={d} d={d} vectorEffect="non-scaling-stroke" />
          ))}
        </g>
      </g>
      <text
        x={(x0 + x1) / 2}
        y={-(y0 - pad * 0.5) - 4 * px}
        fontSize={14 * px}
        textAnchor="middle"
        className="num"
        stroke="#ece4d4"
        strokeWidth={4 * px}
        paintOrder="stroke"
        fill="#21262a"
      >
        {length(w, unit, unit === "mm" ? 2 : 4)}
      </text>
      <text
        transform={`translate(${x1 + pad * 0.5 - 4 * px} ${-(y0 + y1) / 2}) rotate(-90)`}
        fontSize={14 * px}
        textAnchor="middle"
        className="num"
        stroke="#ece4d4"
        strokeWidth={4 * px}
        paintOrder="stroke"
        fill="#21262a"
      >
        {length(h, unit, unit === "mm" ? 2 : 4)}
      </text>
    </>
  );
}

/** One part, large: what is cut and what only marked, where a cutter cannot reach, inside corners to relieve, what was mended in the drawing. */
/** A relief as planned, lit; its picture is another for every place, size and depth. */
function Lit({ part, of, box: [x0, y0, x1, y1] }: { part: Part; of: string; box: Part["box"] }) {
  const { id: job } = useParams(),
    own = part.features.find((f) => f.name === of);
  const v = [x0, y0, x1, y1, own?.depth, own?.surface].join(",");
  const about = new URLSearchParams({ part: part.id, name: of, v });
  return (
    <image
      href={`/api/jobs/${job}/relief.png?${about}`}
      x={x0}
      y={-y1}
      width={x1 - x0}
      height={y1 - y0}
      preserveAspectRatio="none"
      transform="scale(1 -1)"
      data-testid="lit-relief"
    />
  );
}

export function PartBoard({
  part,
  judged,
  reading,
  look,
  onCorner,
  onClose,
}: {
  part: Part;
  judged?: Judgement;
  reading?: Reading;
  look: Look;
  onCorner: (c: XY) => void;
  onClose: () => void;
}) {
  const { unit } = useUnit();
  const drawing = useRef<SVGSVGElement>(null);
  useEscape(onClose);
  const [face, setFace] = useState<"front" | "back">("front"),
    both = part.features.some((f) => f.face === "back");
  const [x0, y0, x1, y1] = part.box,
    w = x1 - x0,
    h = y1 - y0,
    pad = Math.max(w, h) * 0.08 + 4,
    px = Math.max((w + 2 * pad) / 860, (h + 2 * pad) / 560);
  const reach = judged?.reaches.find((r) => r.cutter === look.cutter);
  const line = reading?.healing.find((l) => l.id === look.heal);
  const mark = (m: { width: number; x: number; y: number } | null | undefined, word: string, dy: number) =>
    m && (
      <g transform={`translate(${m.x} ${m.y}) scale(1 -1)`}>
        <circle r={7 * px} fill="none" stroke="#8a5a00" strokeWidth={2} vectorEffect="non-scaling-stroke" />
        <text
          x={10 * px}
          y={dy * px}
          fontSize={13 * px}
          fill="#8a5a00"
          stroke="#faf6ee"
          strokeWidth={3 * px}
          paintOrder="stroke"
        >
          {word} {bare(m.width, unit, unit === "mm" ? 2 : 3)}
        </text>
      </g>
    );
  return (
    <div className="relative h-full">
      <div className="absolute left-4 top-3 z-10 flex items-baseline gap-3">
        <button className="key" onClick={onClose}>
          Back to the wall
        </button>
        <b className="text-head font-semibold">{part.name}</b>
        {both && (
          <Choices
            label="Face that is drawn"
            value={face}
            options={[
              ["front", "front"],
              ["back", "back, seen through"],
            ]}
            onPick={setFace}
          />
        )}
      </div>
      <MeasureOver drawing={drawing} make={() => partOutlines(part)} of={[part]} />
      <svg
        ref={drawing}
        className="h-full w-full"
        viewBox={`${x0 - pad} ${-(y1 + pad)} ${w + 2 * pad} ${h + 2 * pad}`}
        role="group"
        aria-label={`${part.name}, drawn large`}
      >
        <defs>
          <pattern
            id="left-over"
            width={6 * px}
            height={6 * px}
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width={6 * px} height={6 * px} fill="#f7e3dd" />
            <path d={`M0 0V${6 * px}`} stroke="#a92f22" strokeWidth={2.4 * px} />
          </pattern>
        </defs>
        <g transform="scale(1 -1)">
          <path
            d={part.contours.map((c) => c.d).join("")}
            fill="#efe0bd"
            fillRule="evenodd"
            stroke="#21262a"
            strokeWidth={1.8}
            vectorEffect="non-scaling-stroke"
          />
          {part.features.map(
            (f) =>
              f.box &&
              (!both || (f.face ?? "front") === face) && (
                <Lit key={f.name} part={part} of={f.name} box={f.box} />
              ),
          )}
          {part.features.map((f) => (
            <path
              key={f.name}
              d={f.d}
              fill={f.kind === "pocket" ? "rgba(28,78,73,.16)" : "none"}
              stroke="#1c4e49"
              strokeWidth={1.6}
              strokeDasharray={both && (f.face ?? "front") !== face ? "2 4" : FEATURE_DASH[f.kind]}
              vectorEffect="non-scaling-stroke"
            >
              <title>
                {f.name}
                {f.depth ? `, ${length(f.depth, unit)} deep` : ""}
                {f.face === "back" && ", on the back"}
              </title>
            </path>
          ))}
          {reach?.patches.map((p, i) => (
            <path
              key={i}
              d={`M${p.map((q) => q.join(" ")).join("L")}Z`}
              fill="url(#left-over)"
              stroke="#a92f22"
              strokeWidth={1}
              vectorEffect="non-scaling-stroke"
            />
          ))}
          {line && (
            <g transform={`translate(${-part.origin[0]} ${-part.origin[1]})`}>
              {line.items.map((i) => (
                <path
                  key={i.id}
                  d={rowsPath(i)}
                  fill="none"
                  stroke="#c47b0f"
                  strokeWidth={look.hover === i.id ? 5 : 3}
                  strokeDasharray="5 3"
                  vectorEffect="non-scaling-stroke"
                />
              ))}
            </g>
          )}
          {judged && !look.cutter && !look.heal && (
            <>
              {mark(judged.web, "web", -8)}
              {mark(judged.slot, "slot", 18)}
              {judged.corners
                .filter((c) => c.inside)
                .slice(0, 400)
                .map((c, i) => (
                  <circle
                    key={i}
                    cx={c.x}
                    cy={c.y}
                    r={5 * px}
                    fill="#fffdf8"
                    stroke="#21262a"
                    strokeWidth={1.6}
                    vectorEffect="non-scaling-stroke"
                    tabIndex={0}
                    role="button"
                    style={{ cursor: "pointer" }}
                    aria-label={`Relieve the inside corner at ${bare(c.x, unit, 1)}, ${bare(c.y, unit, 1)}`}
                    onClick={() => onCorner([c.x, c.y])}
                    onKeyDown={(e) => {
                      if (e.key === "Enter" || e.key === " ") {
                        e.preventDefault();
                        onCorner([c.x, c.y]);
                      }
                    }}
                  >
                    <title>sharp inside corner, {Math.round(c.angle)} degrees: choose it to relieve it</title>
                  </circle>
                ))}
            </>
          )}
        </g>
        <Extents box={part.box} pad={pad} px={px} />
      </svg>
      <p className="label absolute bottom-2 left-4">
        {look.cutter
          ? `hatched: what the ${reach?.name} leaves uncut`
          : look.heal
            ? "broken lines: what this line of the list changed"
            : judged?.corners.some((c) => c.inside)
              ? "choose an inside corner (white dot) to relieve it"
              : "no sharp inside corners"}
      </p>
    </div>
  );
}

const TABS = ["Part", "Drawing", "Can it be made", "Changes"] as const;

/** The docket of an opened part: the part, how its drawing was read, judgements, alterations and versions. */
export function PartOpenDocket({
  job,
  part,
  setup,
  edits,
  look,
  setLook,
  style,
  setStyle,
  general,
  judged,
  reading,
}: {
  job: Job;
  part: Part;
  setup: Setup;
  edits: Edits;
  look: Look;
  setLook: (l: Look) => void;
  style: string;
  setStyle: (s: string) => void;
  general: React.ReactNode;
  judged?: Judgement;
  reading?: Reading;
}) {
  const [tab, setTab] = useState<(typeof TABS)[number]>("Part");
  return (
    <>
      <TabRow
        label="About this part"
        tabs={TABS.map((t) => [t, t] as const)}
        value={tab}
        onPick={(t) => {
          setTab(t);
          setLook({ cutter: null, heal: null, hover: null });
        }}
        className="mb-2 text-small"
      />
      {tab === "Part" && general}
      {tab === "Drawing" && (
        <DrawingTab job={job} part={part} edits={edits} reading={reading} look={look} setLook={setLook} />
      )}
      {tab === "Can it be made" && (
        <MadeTab part={part} setup={setup} edits={edits} judged={judged} look={look} setLook={setLook} />
      )}
      {tab === "Changes" && (
        <ChangesTab
          part={part}
          edits={edits}
          judged={judged}
          style={style}
          setStyle={setStyle}
          setup={setup}
        />
      )}
    </>
  );
}

function DrawingTab({
  job,
  part,
  edits,
  reading,
  look,
  setLook,
}: {
  job: Job;
  part: Part;
  edits: Edits;
  reading?: Reading;
  look: Look;
  setLook: (l: Look) => void;
}) {
  const { unit } = useUnit();
  const [inside, setInside] = useState("");
  if (!reading) return <p role="status">reading the drawing ...</p>;
  const again = (patch: Record<string, unknown>) =>
    edits.run({ kind: "read-again", drawing: part.drawing, ...patch });
  if (reading.made)
    return (
      <p className="text-quiet">This part was made here. Change its dimensions with the button at Part.</p>
    );
  const word = (layer: string) =>
    layer
      .toLowerCase()
      .match(/[a-z]{3,}/g)
      ?.sort((a, b) => b.length - a.length)[0];
  const always = (w: string, role: Role) =>
    post<Setup["rules"]>("/library/layer-rules", { words: [w], role })
      .then((rules) =>
        edits.run({ kind: "change-setup", setup: part.setup, rules: { layers: rules.layers } }),
      )
      .catch((e: Error) => edits.setNotice({ kind: "bad", text: e.message }));
  const others = job.parts.filter((p) => p.drawing !== part.drawing);
  return (
    <>
      <h3 className="font-semibold">What was mended</h3>
      {!reading.healing.length && <p className="text-quiet">Nothing needed mending.</p>}
      <ul aria-label="Healing list">
        {reading.healing.map((h) => (
          <Heal key={h.id} line={h} look={look} setLook={setLook} again={again} />
        ))}
      </ul>
      <div className="mt-1">
        <LengthField label="join ends within" mm={reading.how.join} onCommit={(v) => again({ join: v })} />
        <LengthField
          label="refit curves within"
          mm={reading.how.refit}
          digits={unit === "mm" ? 3 : 5}
          onCommit={(v) => again({ refit: v })}
        />
      </div>
      <h3 className="mt-2 font-semibold">Layers</h3>
      <table className="w-full">
        <tbody>
          {reading.layers.map((l) => (
            <tr key={l.name} className="align-top">
              <td className="rule py-1 pr-2">
                <span className="font-medium">{l.name}</span>{" "}
                <span className="label">
                  {l.lines} line{l.lines === 1 ? "" : "s"}
                  {l.colour && l.colour !== "black" ? `, ${l.colour}` : ""}; {l.why}
                </span>
              </td>
              <td className="rule py-1">
                <Pick
                  label={`Layer ${l.name} means`}
                  value={l.role}
                  options={ROLES}
                  onPick={(role) => again({ roles: { [l.name]: role } })}
                />
                {l.role !== "cut" && l.role !== "leave out" && (
                  <Pick
                    label={`Face of layer ${l.name}`}
                    value={l.face ?? "front"}
                    options={FACES}
                    onPick={(face) => again({ faces: { [l.name]: face } })}
                  />
                )}
                {l.why === "said by hand" && word(l.name) && (
                  <button
                    className="block text-small underline decoration-dotted"
                    title={`layers with the word ${word(l.name)} will mean this, here and in new jobs`}
                    onClick={() => always(word(l.name)!, l.role)}
                  >
                    always so for "{word(l.name)}"
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <h3 className="mt-3 font-semibold">Size of the drawing</h3>
      <p className="label">
        scaled {reading.how.scale === 1 ? "1 to 1" : `by ${reading.how.scale.toFixed(4)}`}{" "}
        {reading.how.scale !== 1 && (
          <button className="underline" onClick={() => again({ scale: 1 })}>
            back to 1 to 1
          </button>
        )}
      </p>
      <LengthField
        label="make everything this wide"
        mm={part.box[2] - part.box[0]}
        onCommit={(v) => edits.scale(part.drawing, { width: v })}
        hint="this part is"
      />
      {others.length > 0 && (
        <div className="flex items-baseline gap-2">
          <Pick
            className="flex-1"
            label="Fit inside"
            placeholder="fit inside a part ..."
            value={inside}
            options={others.map((p): [string, string] => [p.id, p.name])}
            onPick={setInside}
          />
          <button
            className="key"
            disabled={!inside}
            onClick={() => edits.scale(part.drawing, { inside, margin: 10 })}
          >
            with {length(10, unit)} margin
          </button>
        </div>
      )}
      <h3 className="mt-3 font-semibold">A logo or an ornament?</h3>
      {reading.how.board == null ? (
        <p>
          <button className="key" onClick={() => again({ board: 20 })}>
            Carve all of it into one board
          </button>{" "}
          <span className="label">instead of cutting it out</span>
        </p>
      ) : (
        <>
          <LengthField
            label="margin around it"
            mm={reading.how.board}
            onCommit={(v) => again({ board: v })}
          />
          <p>
            <button className="key !py-0.5" onClick={() => again({ board: null })}>
              Cut it out after all
            </button>{" "}
            <span className="label">how it is carved: Cuts &amp; hold</span>
          </p>
        </>
      )}
      {reading.how.bridge > 0 && (
        <p className="mt-2">
          Islands are held by {length(reading.how.bridge, unit)} bridges.{" "}
          <button className="underline" onClick={() => again({ bridge: 0 })}>
            Take them away
          </button>
        </p>
      )}
    </>
  );
}

function Heal({
  line,
  look,
  setLook,
  again,
}: {
  line: HealLine;
  look: Look;
  setLook: (l: Look) => void;
  again: (p: Record<string, unknown>) => void;
}) {
  const { unit } = useUnit();
  const open = look.heal === line.id,
    fixed = ["dust", "bridge", "join-twins", "join-lost"].includes(line.id.split("/").pop()!);
  return (
    <li className="rule py-1">
      <div className="flex items-start gap-2">
        {!fixed && (
          <input
            type="checkbox"
            className="mt-1 accent-[#1c4e49]"
            checked={line.applied}
            aria-label={line.says}
            onChange={(e) =>
              again({
                chosen: {
                  [line.id]:
                    line.id.endsWith("text") || line.id.endsWith("open")
                      ? !e.target.checked
                      : e.target.checked,
                },
              })
            }
          />
        )}
        <div className="min-w-0 flex-1">
          <span className={line.applied ? "" : "text-quiet"}>{line.says}</span>
          {line.deviation > 0 && (
            <span className="label">
              ; off by at most {length(line.deviation, unit, unit === "mm" ? 4 : 5)}
            </span>
          )}
          {line.items.length > 0 && (
            <button
              className="ml-1 text-small underline decoration-dotted"
              aria-expanded={open}
              onClick={() => setLook({ cutter: null, heal: open ? null : line.id, hover: null })}
            >
              {open ? "hide" : "show"}
            </button>
          )}
        </div>
      </div>
      {open && (
        <ul className="ml-6 max-h-40 overflow-auto text-small">
          {line.items.map((i, k) => (
            <li
              key={i.id}
              className="flex justify-between gap-2"
              onMouseEnter={() => setLook({ ...look, hover: i.id })}
              onMouseLeave={() => setLook({ ...look, hover: null })}
            >
              <span className="num">
                {k + 1}. at {bare(i.rows[0][0], unit, 1)}, {bare(i.rows[0][1], unit, 1)}
              </span>
              {!fixed && (
                <button
                  className="underline"
                  onClick={() =>
                    again({ chosen: { [i.id]: line.id.endsWith("open") ? true : !line.applied } })
                  }
                >
                  {line.id.endsWith("open") ? "engrave it" : line.applied ? "bring it back" : "apply here"}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

function MadeTab({
  part,
  setup,
  edits,
  judged,
  look,
  setLook,
}: {
  part: Part;
  setup: Setup;
  edits: Edits;
  judged?: Judgement;
  look: Look;
  setLook: (l: Look) => void;
}) {
  const { unit } = useUnit(),
    d = unit === "mm" ? 2 : 3;
  if (!judged) return <p role="status">measuring ...</p>;
  const rows: [string, string][] = [
    [
      "smallest inside radius",
      judged.inside_radius === null
        ? "no inside corner"
        : judged.inside_radius === 0
          ? `sharp, ${judged.sharp_inside} corner${judged.sharp_inside === 1 ? "" : "s"}`
          : length(judged.inside_radius, unit, d),
    ],
    ["narrowest web", judged.web ? length(judged.web.width, unit, d) : `over ${length(40, unit, d)}`],
    ["narrowest slot", judged.slot ? length(judged.slot.width, unit, d) : `over ${length(40, unit, d)}`],
  ];
  return (
    <>
      <dl className="grid grid-cols-[1fr_auto] gap-x-3">
        {rows.map(([k, v]) => (
          <div key={k} className="contents">
            <dt className="label rule py-1">{k}</dt>
            <dd className="num rule py-1 text-right">{v}</dd>
          </div>
        ))}
      </dl>
      <h3 className="mt-3 flex items-baseline justify-between font-semibold">
        Which cutter can make it <Reckon name="inside-corner">reckon a corner</Reckon>
      </h3>
      <ul>
        {judged.reaches.map((r) => (
          <li key={r.cutter} className="rule flex items-baseline gap-2 py-1">
            <span className="min-w-0 flex-1">
              <span className="font-medium">{r.name}</span>{" "}
              <span className="label">
                {r.blocked.length
                  ? `cannot enter ${r.blocked.slice(0, 3).join(", ")}${r.blocked.length > 3 ? ` and ${r.blocked.length - 3} more` : ""}`
                  : r.left_over > 0.05
                    ? `leaves ${r.left_over.toFixed(1)} mm² in ${r.patches.length} place${r.patches.length === 1 ? "" : "s"}`
                    : "reaches everything"}
              </span>
            </span>
            {r.patches.length > 0 && (
              <button
                className={look.cutter === r.cutter ? "key-strong !py-0" : "key !py-0"}
                aria-pressed={look.cutter === r.cutter}
                onClick={() =>
                  setLook({ heal: null, hover: null, cutter: look.cutter === r.cutter ? null : r.cutter })
                }
              >
                show
              </button>
            )}
          </li>
        ))}
      </ul>
      <Snags
        snags={setup.snags.filter((s) => s.where?.part === part.id && s.rule.startsWith("parts."))}
        edits={edits}
      />
    </>
  );
}

function ChangesTab({
  part,
  edits,
  judged,
  style,
  setStyle,
  setup,
}: {
  part: Part;
  edits: Edits;
  judged?: Judgement;
  style: string;
  setStyle: (s: string) => void;
  setup: Setup;
}) {
  const { unit } = useUnit();
  const cutter =
    setup.cutters.find((c) => c.id === setup.operations.find((o) => o.on === "outlines")?.cutter) ??
    setup.cutters[0];
  const [radius, setRadius] = useState((cutter?.diameter ?? 6) / 2 + 0.05),
    [round, setRound] = useState(5),
    [under, setUnder] = useState(150);
  const [inset, setInset] = useState(15),
    [deep, setDeep] = useState(3);
  const add = (value: { kind: "relief" | "rounding" | "inset-groove" } & Record<string, unknown>) =>
    edits.run({ kind: "alter-part", part: part.id, add: value as Alteration });
  const list = judged?.alterations ?? [];
  return (
    <>
      <h3 className="font-semibold">Changed after drawing</h3>
      {!list.length && <p className="text-quiet">Nothing: the part is as drawn.</p>}
      <ol>
        {list.map((a, i) => (
          <li key={i} className="rule flex items-baseline gap-2 py-1">
            <span className="min-w-0 flex-1">
              {a.says}{" "}
              {a.removed_mm2 !== 0 && (
                <span className="label num">
                  {a.removed_mm2 >= 0 ? "takes" : "adds"} {Math.abs(a.removed_mm2).toFixed(1)} mm²
                </span>
              )}
            </span>
            <button
              className="underline"
              aria-label={`Drop: ${a.says}`}
              onClick={() =>
                edits.run({
                  kind: "alter-part",
                  part: part.id,
                  drop: i,
                })
              }
            >
              drop
            </button>
          </li>
        ))}
      </ol>
      <OnFace part={part} edits={edits} list={list} lines={judged?.lines ?? []} />
      <BackDrawing part={part} edits={edits} list={list} />
      <h3 className="mt-3 flex items-baseline justify-between font-semibold">
        Relieve inside corners
        <Reckon name="corner-relief" given={{ diameter: `${2 * radius}` }}>
          how far it goes
        </Reckon>
      </h3>
      <div className="flex flex-wrap gap-1.5">
        {STYLES.map((s) => (
          <button
            key={s}
            className={style === s ? "key-strong" : "key"}
            aria-pressed={style === s}
            onClick={() => setStyle(s)}
          >
            {s}
          </button>
        ))}
      </div>
      <LengthField
        label={`radius (${cutter?.name ?? "cutter"} + a little)`}
        mm={radius}
        onCommit={setRadius}
      />
      <div className="flex flex-wrap items-baseline gap-x-2">
        <button className="key" onClick={() => add({ kind: "relief", style, radius, under })}>
          All inside corners up to
        </button>
        <input
          type="number"
          className="field w-16 text-right"
          min={10}
          max={179}
          value={under}
          aria-label="Largest angle to relieve, degrees"
          onChange={(e) => setUnder(Math.min(179, Math.max(10, e.target.valueAsNumber || 150)))}
        />
        <span className="label">degrees, or choose one on the part</span>
      </div>
      <h3 className="mt-3 font-semibold">Round corners of the outline</h3>
      <LengthField label="radius" mm={round} onCommit={setRound} />
      <button className="key" onClick={() => add({ kind: "rounding", radius: round })}>
        Outside corners
      </button>{" "}
      <button className="key" onClick={() => add({ kind: "rounding", radius: round, inside: true })}>
        Inside corners
      </button>
      <h3 className="mt-3 font-semibold">Groove inside the outline</h3>
      <LengthField label="its middle, from the outline" mm={inset} onCommit={setInset} />
      <LengthField label="depth of the groove" mm={deep} onCommit={setDeep} />
      <button className="key" onClick={() => add({ kind: "inset-groove", distance: inset, depth: deep })}>
        Groove it
      </button>
      <h3 className="mt-3 font-semibold">What was learned</h3>
      <textarea
        key={part.note}
        className="field h-16 w-full !font-sans"
        aria-label="Note on this part"
        defaultValue={part.note}
        maxLength={2000}
        placeholder="kept with this version of the part"
        onBlur={(e) =>
          e.target.value !== part.note &&
          edits.run({ kind: "note-part", part: part.id, note: e.target.value })
        }
      />
      <button className="key" onClick={() => edits.run({ kind: "keep-version", part: part.id })}>
        Keep this version
      </button>
      {judged && judged.versions.length > 0 && (
        <>
          <h3 className="mt-2 font-semibold">Earlier versions</h3>
          <ol>
            {judged.versions.map((v, i) => (
              <li key={i} className="rule flex gap-2 py-1">
                <Mini picture={v.picture} />
                <div className="min-w-0">
                  <span className="num">version {i + 1}</span>{" "}
                  <span className="label">{squareMetres(v.picture.area, unit)}</span>
                  {v.altered.length > 0 && <p className="label">{inUnit(v.altered.join("; "), unit)}</p>}
                  <p>{v.note || <span className="text-quiet">no note</span>}</p>
                  {v.again && (
                    <button
                      className="underline"
                      aria-label={`Take version ${i + 1} again`}
                      onClick={() => edits.run({ kind: "take-version", part: part.id, version: i })}
                    >
                      take it again
                    </button>
                  )}
                </div>
              </li>
            ))}
          </ol>
        </>
      )}
    </>
  );
}

export function Mini({ picture, size = 64 }: { picture: Picture; size?: number }) {
  const [x0, y0, x1, y1] = picture.box,
    m = Math.max(x1 - x0, y1 - y0) * 0.05;
  return (
    <svg
      width={size}
      height={size * 0.75}
      className="shrink-0"
      viewBox={`${x0 - m} ${-(y1 + m)} ${x1 - x0 + 2 * m} ${y1 - y0 + 2 * m}`}
      aria-hidden
    >
      <path
        transform="scale(1 -1)"
        d={picture.contours.map((c) => c.d).join("")}
        fill="#e9d8b2"
        fillRule="evenodd"
        stroke="#21262a"
        strokeWidth={1.2}
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

/** Everything an opened part needs from the server. */
export const usePartOpen = (job: Job, part: Part | undefined) => ({
  judged: useJudgement(job.id, part?.id, job.revision).data,
  reading: useReading(job.id, part?.drawing, job.revision).data,
});
