import { asSteps } from "../../api/changes";
import type { Edits } from "../../api/edits";
import {
  clock,
  type ContourPlan,
  type Job,
  type On,
  type Operation,
  type Part,
  type Setup,
  type XY,
} from "../../api/model";
import { Pick } from "../../shared/Pick";
import { Choice, inUnit } from "../../shared/Tokens";
import { bare, length, useUnit } from "../../shared/lengths";
import { Steps } from "./Steps";
import { TabCount } from "./TabCount";
import { TypedPlaces } from "./TypedPlaces";
import type { Asked } from "./features";
import { suits } from "./stepWords";

/** What is chosen for a contour, and for those cut just alike. */
export type Choose = (contour: string, fields: Record<string, unknown>, alike?: ContourPlan[]) => void;
type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  part: Part;
  on: On;
  plan: ContourPlan;
  alike: ContourPlan[];
  /** Every contour of this kind in the part. */
  all: ContourPlan[];
  /** The steps that hold for this kind of feature. */
  house: Operation[];
  ownPart?: { steps: Operation[] };
  choose: Choose;
  seconds: (contour: string) => number;
  onBench: (b: Asked) => void;
  /** Where each contour is entered. */
  starts: Map<string, XY>;
  /** Is it chosen, to be changed with others? */
  marked: boolean;
  onMark: () => void;
};

const titleOf = (part: Part, contour: string) =>
  contour === part.contours[0].name ? "Outline" : contour[0].toUpperCase() + contour.slice(1);

/** One contour of a part as it is planned, and what is chosen for it. */
export function OneContour(props: Props) {
  const { job, setup, edits, part, on, plan: c, choose, onBench, starts } = props;
  if (c.omitted)
    return (
      <p className="rule py-1.5">
        <Mark {...props} />
        {titleOf(part, c.contour)}: left out on purpose.{" "}
        <button className="underline" onClick={() => choose(c.contour, { omit: false })}>
          Cut it again
        </button>
      </p>
    );
  const own = job.steps.find((s) => s.part === part.id && s.contour === c.contour);
  return (
    <div className="rule py-1.5">
      <Planned {...props} />
      <p className="flex flex-wrap items-baseline gap-x-2 text-small">
        <TabsOf {...props} />
        <MiddleOnSkin {...props} />
        <TypedPlaces
          part={part}
          plan={c}
          start={starts.get(c.contour)}
          chosen={!!job.choices.find((k) => k.part === part.id && k.contour === c.contour)?.start}
          choose={choose}
        />
        <ClosedLineOf {...props} />
        <Ways {...props} own={!!own} />
      </p>
      {own && (
        <Steps
          {...{ job, setup, edits, on, onBench }}
          whose={{ part: part.id, contour: c.contour }}
          steps={own.steps}
          planOf={(s) => c.steps.find((x) => x.operation === s.id)}
          closed
        />
      )}
    </div>
  );
}

/** A box that chooses the contour, and those cut just alike. */
function Mark({ part, plan: c, marked, onMark }: Props) {
  return (
    <input
      type="checkbox"
      className="mr-1.5 size-4 align-[-2px]"
      aria-label={`choose ${titleOf(part, c.contour)}`}
      checked={marked}
      onChange={onMark}
    />
  );
}

/** In which steps it is cut, with which cutter, how long it takes. */
function Planned(props: Props) {
  const { setup, part, plan: c, alike, house, ownPart, choose, seconds } = props;
  const { unit } = useUnit();
  const title = titleOf(part, c.contour),
    size = part.contours.find((k) => k.name === c.contour)?.size,
    last = c.steps[c.steps.length - 1],
    houseCutter = (ownPart?.steps ?? house).at(-1)?.cutter;
  return (
    <p className="flex justify-between gap-2">
      <span>
        <Mark {...props} />
        <b className="font-semibold">
          {title}
          {alike.length > 1 ? ` and ${alike.length - 1} like it` : ""}
        </b>
        {c.inside && size ? (
          <span className="num">
            {" "}
            {bare(size[0], unit, 1)} x {bare(size[1], unit, 1)}
          </span>
        ) : (
          ""
        )}
        ,{" "}
        {c.steps.map((s, i) => (
          <span key={s.operation}>
            {i ? "; then " : ""}
            {s.kind},{" "}
            <span className="num" title={s.why.map(([k, w]) => `${k}: ${inUnit(w, unit)}`).join("\n")}>
              {s.passes} pass{s.passes === 1 ? "" : "es"} to {length(s.depth, unit)}
            </span>
            {s.left > 0.5 ? `, ${s.left.toFixed(0)} mm² left` : ""}
          </span>
        ))}{" "}
        with{" "}
        <Pick
          look="token"
          className="max-w-[11rem]"
          label={`Cutter for ${c.contour}`}
          value={c.cutter}
          options={setup.cutters
            .filter((k) => k.id === c.cutter || suits(last?.kind ?? "profile", k))
            .map((k): [string, string] => [k.id, k.name])}
          onPick={(id) =>
            choose(c.contour, id === houseCutter ? { automatic: ["cutter"] } : { cutter: id }, alike)
          }
        />
      </span>
      <span className="num">{clock(alike.reduce((n, k) => n + seconds(k.contour), 0))}</span>
    </p>
  );
}

function TabsOf({ on, plan: c, choose }: Props) {
  if (!["outlines", "holes", "round holes"].includes(on)) return null;
  return (
    <>
      <span className="label">tabs</span>
      <TabCount value={c.tabs.length} onCommit={(n) => choose(c.contour, { tab_count: n })} />
      <span className="label">
        {c.by_hand ? "placed by hand" : c.tabs.length ? "spread on straight runs" : "none"}
      </span>
      {(c.by_hand || c.tabs.length > 0 || !c.inside) && (
        <button
          className="text-small underline decoration-dotted"
          onClick={() => choose(c.contour, { automatic: ["tabs", "tab_count"] })}
        >
          automatic
        </button>
      )}
    </>
  );
}

function MiddleOnSkin({ setup, edits, part, on, plan: c }: Props) {
  const size = part.contours.find((k) => k.name === c.contour)?.size;
  if (!c.inside || !["holes", "round holes"].includes(on) || !size || Math.min(...size) <= 30) return null;
  return (
    <button
      className="text-small underline decoration-dotted"
      onClick={() =>
        edits.run({
          kind: "set-hold",
          setup: setup.id,
          part: part.id,
          contour: c.contour,
          way: "skin, by hand",
        })
      }
    >
      keep its middle on a skin
    </button>
  );
}

/** What a closed groove line means, here. */
function ClosedLineOf({ job, part, on, plan: c, alike, choose }: Props) {
  const chosen = job.choices.find((k) => k.part === part.id && k.contour === c.contour);
  if (on !== "grooves" || !part.features.some((f) => f.name === c.contour && f.closed)) return null;
  return (
    <span>
      <span className="label">closed line </span>
      <Choice
        label={`closed line ${c.contour} means`}
        value={chosen?.line ?? ""}
        options={[
          ["", "as the others"],
          ["on line", "run on it"],
          ["inside", "run inside"],
          ["outside", "run outside"],
          ["clear", "cleared"],
        ]}
        onPick={(line) => choose(c.contour, line ? { line } : { automatic: ["line"] }, alike)}
      />
    </span>
  );
}

function Ways({
  job,
  setup,
  edits,
  part,
  on,
  plan: c,
  alike,
  all,
  house,
  choose,
  own,
}: Props & { own: boolean }) {
  const chosen = job.choices.find((k) => k.part === part.id && k.contour === c.contour),
    last = c.steps[c.steps.length - 1];
  return (
    <>
      <button
        className="text-small underline decoration-dotted"
        onClick={() => choose(c.contour, { omit: true }, alike)}
      >
        leave out
      </button>
      {last && setup.operations.find((o) => o.id === last.operation) && !c.own_steps && all.length > 1 && (
        <button
          className="text-small underline decoration-dotted"
          onClick={() =>
            edits.run({
              kind: "set-steps",
              part: part.id,
              on,
              contour: c.contour,
              steps: asSteps(house),
            })
          }
        >
          steps of its own
        </button>
      )}
      {chosen?.start && (
        <button className="text-small underline" onClick={() => choose(c.contour, { automatic: ["start"] })}>
          start on a flat again
        </button>
      )}
      {own && (
        <button className="text-small underline" onClick={() => choose(c.contour, { automatic: ["steps"] })}>
          as the others
        </button>
      )}
    </>
  );
}
