import { useState } from "react";

import { asSteps } from "../../api/changes";
import type { Edits } from "../../api/edits";
import type { ContourPlan, HoldWay, Job, On, Operation, Part, Setup, SheetPlan, XY } from "../../api/model";
import { WhatHoldsThis } from "../../holding/HoldBench";
import { ratioAt, times } from "../../holding/grades";
import { Snags } from "../../shared/Snags";
import { entered } from "../../table/StartsLayer";
import { ContoursInHand } from "./ContoursInHand";
import { type Choose, OneContour } from "./OneContour";
import { RecipeLine } from "./RecipeLine";
import { Steps } from "./Steps";
import { type Asked, ORDER } from "./features";
import { FEATURE } from "./stepWords";

type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  selected: string | null;
  plan?: SheetPlan;
  time: number | null;
  setTime: (t: number | null) => void;
  held: boolean;
  onHeld: () => void;
  partId: string;
  onBench: (b: Asked) => void;
  snags: Setup["snags"];
};

/** How the part of the chosen piece is cut and held, and what it has of its own. */
export function PartCuts(props: Props) {
  const { job, setup, edits, selected, plan, partId, onBench, snags, time, setTime, held, onHeld } = props;
  const piece = setup.pieces.find((p) => p.id === selected)!,
    part = job.parts.find((p) => p.id === partId)!;
  const plans = setup.contours[part.id] ?? [],
    copies = setup.pieces.filter((p) => p.part === part.id).length;
  const seconds = (contour: string) =>
    plan?.cuts
      .filter((c) => c.piece === piece.id && c.contour === contour)
      .reduce((n, c) => n + c.seconds, 0) ?? 0;
  const choose: Choose = (contour, fields, alike = []) => {
    if (alike.length < 2) edits.run({ kind: "set-contour", part: part.id, contour, ...fields });
    else
      edits.run({
        kind: "change-contours",
        contours: alike.map((k) => ({ part: part.id, contour: k.contour })),
        ...fields,
      });
  };
  const starts = entered(plan, piece, part);
  const [names, setNames] = useState<string[]>([]),
    [of, setOf] = useState(part.id);
  if (of !== part.id) {
    setOf(part.id); // contours of another part are chosen anew
    setNames([]);
  }
  const marked = plans.filter((c) => names.includes(c.contour));
  const mark = (all: ContourPlan[]) => {
    const these = all.map((c) => c.contour),
      on = these.every((n) => names.includes(n));
    setNames(on ? names.filter((n) => !these.includes(n)) : [...new Set([...names, ...these])]);
  };
  const groups = ORDER.map((on): [On, ContourPlan[]] => [on, plans.filter((c) => c.on === on)]).filter(
    ([, c]) => c.length,
  );
  return (
    <>
      <h2 className="text-figure font-semibold">
        {part.name}, piece {piece.copy_no + 1} of {part.quantity}
      </h2>
      {held ? (
        <WhatHoldsThis job={job} setup={setup} plan={plan} piece={piece.id} time={time} setTime={setTime} />
      ) : (
        plan?.hold && (
          <p className="flex items-baseline justify-between gap-2 text-small">
            <span>
              {ratioAt(plan, piece.id, time) === undefined ? (
                "Part of the sheet at this moment."
              ) : (
                <>
                  Held <b className="num">{times(ratioAt(plan, piece.id, time))}×</b> what its cut asks
                  {time === null ? ", at the least" : ""}.
                </>
              )}
            </span>
            <button className="underline decoration-dotted" onClick={onHeld}>
              what holds this?
            </button>
          </p>
        )
      )}
      {held && <Snags snags={snags.filter((s) => s.rule.startsWith("holding."))} edits={edits} />}
      <p className="label mt-2">
        Choices here hold for all {copies} piece{copies === 1 ? "" : "s"} of this part.
      </p>
      <ContoursInHand
        {...{ part, setup, edits }}
        chosen={marked}
        house={(on) =>
          job.steps.find((s) => s.part === part.id && s.on === on && !s.contour)?.steps ??
          setup.operations.filter((o) => o.on === on)
        }
        onDone={() => setNames([])}
      />
      {groups.map(([on, contours]) => (
        <OneKind
          key={on}
          {...{ job, setup, edits, part, on, contours, choose, seconds, onBench, mark }}
          starts={starts}
          marked={names}
        />
      ))}
      <HoldPart job={job} setup={setup} edits={edits} part={part.id} />
      <p className="label mt-2">
        Drag a tab or a start point along its edge on the table, double-click an edge for a tab more, Delete
        takes one away; with the keyboard, focus it and use the arrow keys.
      </p>
      <Snags snags={held ? snags.filter((s) => !s.rule.startsWith("holding.")) : snags} edits={edits} />
    </>
  );
}

type KindProps = Pick<Props, "job" | "setup" | "edits" | "onBench"> & {
  part: Part;
  on: On;
  contours: ContourPlan[];
  choose: Choose;
  seconds: (contour: string) => number;
  starts: Map<string, XY>;
  marked: string[];
  mark: (all: ContourPlan[]) => void;
};

/** One kind of feature of the part: by the setup's steps, or by steps of its own. */
function OneKind(props: KindProps) {
  const { job, setup, edits, part, on, contours, choose, seconds, onBench, marked, mark, starts } = props;
  const ownPart = job.steps.find((s) => s.part === part.id && s.on === on && !s.contour),
    house = setup.operations.filter((o) => o.on === on);
  return (
    <section
      className="mt-3 border border-line bg-paper px-2.5 py-1.5"
      aria-label={`${FEATURE[on]} of ${part.name}`}
    >
      <h3 className="flex items-baseline justify-between gap-2">
        <b className="text-head font-semibold">{FEATURE[on]}</b>
        {contours.length > 1 && (
          <button className="ml-auto text-small underline decoration-dotted" onClick={() => mark(contours)}>
            {contours.every((c) => marked.includes(c.contour))
              ? "choose none"
              : `choose all ${contours.length}`}
          </button>
        )}
        {ownPart ? (
          <span className="flex gap-2">
            <button
              className="text-small underline"
              onClick={() =>
                edits.run({
                  kind: "set-steps",
                  setup: setup.id,
                  on,
                  steps: asSteps(ownPart.steps),
                  were_of: part.id,
                })
              }
            >
              for all parts
            </button>
            <button
              className="text-small underline"
              onClick={() => edits.run({ kind: "set-steps", part: part.id, on, steps: [] })}
            >
              as the setup says
            </button>
          </span>
        ) : (
          <button
            className="text-small underline decoration-dotted"
            onClick={() => edits.run({ kind: "set-steps", part: part.id, on, steps: asSteps(house) })}
          >
            steps of its own
          </button>
        )}
      </h3>
      {ownPart && (
        <>
          <RecipeLine
            {...{ on, setup, edits }}
            steps={ownPart.steps}
            target={{ part: part.id }}
            current="own to this part"
            differs={difference(ownPart.steps, house)}
          />
          <Steps
            {...{ job, setup, edits, on, onBench }}
            whose={{ part: part.id }}
            steps={ownPart.steps}
            planOf={(s) => contours.flatMap((c) => c.steps).find((x) => x.operation === s.id)}
          />
        </>
      )}
      {folded(contours, job, part.id).map(({ first, alike }) => (
        <OneContour
          key={first.contour}
          {...{ job, setup, edits, part, on, alike, house, ownPart, choose, seconds, onBench, starts }}
          plan={first}
          all={contours}
          marked={alike.every((c) => marked.includes(c.contour))}
          onMark={() => mark(alike)}
        />
      ))}
    </section>
  );
}

const HOLD_WAYS: HoldWay[] = ["tabs", "skin, last pass", "skin, by hand", "nothing"];

/** Another way of holding for one part than the setup's. */
function HoldPart({ job, setup, edits, part }: { job: Job; setup: Setup; edits: Edits; part: string }) {
  const own = job.steps.some((s) => s.part === part && s.on === "outlines" && !s.contour);
  return (
    <p className="mt-2 flex flex-wrap items-baseline gap-x-2 text-small">
      <span className="label">hold this part by</span>
      {HOLD_WAYS.map((way) => (
        <button
          key={way}
          className="underline decoration-dotted"
          onClick={() => edits.run({ kind: "set-hold", setup: setup.id, part, way })}
        >
          {way}
        </button>
      ))}
      {own && (
        <button
          className="underline"
          onClick={() => edits.run({ kind: "set-steps", part, on: "outlines", steps: [] })}
        >
          as the setup says
        </button>
      )}
    </p>
  );
}

/** Features cut just alike are one line: twenty ticks of a scale are not twenty decisions. */
function folded(
  contours: ContourPlan[],
  job: Job,
  part: string,
): { first: ContourPlan; alike: ContourPlan[] }[] {
  const groups = new Map<string, ContourPlan[]>(),
    sizes = new Map(
      job.parts
        .find((p) => p.id === part)
        ?.contours.map((c) => [c.name, c.size.map((v) => v.toFixed(1)).join("x")]),
    );
  for (const c of contours) {
    const own = c.tabs.length || c.omitted || c.own_steps || c.by_hand || c.steps.some((s) => s.left > 0.5);
    const key = own
      ? c.contour
      : JSON.stringify([
          sizes.get(c.contour),
          c.cutter,
          c.steps.map((s) => [s.kind, s.passes, s.depth.toFixed(3)]),
        ]);
    groups.set(key, [...(groups.get(key) ?? []), c]);
  }
  return [...groups.values()].flatMap((g) =>
    g.length > 3 ? [{ first: g[0], alike: g }] : g.map((c) => ({ first: c, alike: [c] })),
  );
}

/** In what steps of a part's own differ from the setup's, in words. */
function difference(own: Operation[], house: Operation[]): string[] {
  const out: string[] = [];
  for (const s of own) {
    const h = house.find((o) => o.id === s.id) as Record<string, unknown> | undefined;
    if (!h) out.push(`${s.kind} ${s.id} added`);
    else
      for (const [k, v] of Object.entries(s))
        if (JSON.stringify(v) !== JSON.stringify(h[k]))
          out.push(`${k.replace(/_/g, " ")} ${v ?? "by house rule"} instead of ${h[k] ?? "the house rule"}`);
  }
  for (const h of house) if (!own.some((s) => s.id === h.id)) out.push(`${h.kind} ${h.id} left out`);
  return out;
}
