import { type ReactNode, useState } from "react";

import { post } from "../../api/client";
import type { Cutter, Operation, Setup, StepPlan } from "../../api/model";
import { useLibrary } from "../../api/queries";
import { NewCutter } from "../../library/NewCutter";
import { Choice, NumberToken, QuantityToken, Told, Why } from "../../shared/Tokens";
import { bare, length, useUnit } from "../../shared/lengths";
import { type Change, FIRST, LAST, PHRASES } from "./phrases";
import { KINDS, speed, suits, why } from "./stepWords";

type Props = {
  step: Operation;
  setup: Setup;
  plan?: StepPlan;
  subject?: string;
  change: Change;
  onFeeds?: () => void;
  tools?: ReactNode;
  tabs?: ReactNode;
  /** Before the sentence. */
  mark?: ReactNode;
};

/** An operation as a sentence. Every underlined word or number is changed where it stands; hovering a number says which rule made it. */
export function Sentence(props: Props) {
  const { step, setup, plan, change, tools, tabs, mark } = props;
  const { unit } = useUnit();
  const [making, setMaking] = useState(false),
    [wrong, setWrong] = useState("");
  const said = { ...props, unit };
  const words = [
    FIRST(said),
    <Cutting key="cutter" {...{ step, setup, change, setWrong }} onNew={() => setMaking(true)} />,
    ...PHRASES.map((phrase) => phrase(said)),
    tabs,
    LAST(said),
  ].filter(Boolean);
  return (
    <div className="rule py-1.5" data-step={step.id}>
      <p className="leading-[1.55]">
        {mark}
        {words.map((w, i) => (
          <span key={i}>
            {i ? ", " : ""}
            {w}
          </span>
        ))}
        .
      </p>
      {wrong && (
        <p role="alert" className="text-small text-stop">
          {wrong}{" "}
          <button className="underline" onClick={() => setWrong("")}>
            close
          </button>
        </p>
      )}
      {making && (
        <NewCutter
          kinds={KINDS.filter((kind) => suits(step.kind, { kind } as Cutter))}
          setup={setup}
          onMade={(c) => change({ cutter: c.id }, [c])}
          onClose={() => setMaking(false)}
        />
      )}
      {plan && <Numbers {...props} plan={plan} />}
      {tools}
    </div>
  );
}

type CuttingProps = Pick<Props, "step" | "setup" | "change"> & {
  setWrong: (w: string) => void;
  onNew: () => void;
};

/** With which cutter: one of the job, another of the shop, or a new one. */
function Cutting({ step, setup, change, setWrong, onNew }: CuttingProps) {
  const { unit } = useUnit();
  const library = useLibrary().data;
  const cutter = setup.cutters.find((c) => c.id === step.cutter);
  const able = setup.cutters.filter((c) => c.id === step.cutter || suits(step.kind, c)),
    shop = (library?.cutter ?? []).filter(
      (c) => suits(step.kind, c) && !setup.cutters.some((k) => k.id === c.id),
    );
  // a cutter of the shop comes into the job with this edit; one without feeds for the material gets the middle of its window
  const bring = (id: string) =>
    post<Cutter>(`/library/cutter/${encodeURIComponent(id)}/feeds`, { material: setup.material.id })
      .then((c) => {
        setWrong("");
        change({ cutter: id }, [c]);
      })
      .catch((e: Error) => setWrong(e.message));
  return (
    <>
      with{" "}
      <Choice
        wide
        label={`Cutter for ${step.on}`}
        value={step.cutter}
        options={[
          ...(cutter ? able : [{ id: step.cutter, name: "a cutter that is gone" } as Cutter, ...able]).map(
            (c): [string, string] => [c.id, c.name],
          ),
          ...shop.map((c): [string, string] => [`shop:${c.id}`, `${c.name}, from the shop`]),
          ["new:", "a new cutter ..."],
        ]}
        onPick={(id) =>
          id === "new:" ? onNew() : id.startsWith("shop:") ? bring(id.slice(5)) : change({ cutter: id })
        }
        why={
          cutter &&
          `T${cutter.number}, ${cutter.kind}, ${length(cutter.diameter, unit)} across, ${cutter.flutes} flute${cutter.flutes === 1 ? "" : "s"}, edge ${length(cutter.cutting_length, unit)}`
        }
      />
    </>
  );
}

/** Speed, feed and chip of a step, and what acceleration leaves of the feed. */
function Numbers({ step, setup, plan, change, onFeeds }: Props & { plan: StepPlan }) {
  const { unit } = useUnit();
  const reached = setup.reached[step.id];
  if (!setup.cutters.some((c) => c.id === step.cutter)) return null;
  return (
    <p className="mt-0.5 flex flex-wrap items-baseline gap-x-2.5 text-small text-quiet">
      <span>
        <NumberToken
          label="spindle speed"
          value={plan.rpm}
          unit=" rpm"
          house={step.rpm === null}
          onCommit={(rpm) => change({ rpm })}
          onHouse={() => change({ rpm: null })}
          least={1}
          why={why(plan, "rpm")}
        />
      </span>
      <span>
        <QuantityToken
          of="feed"
          label="feed"
          value={plan.feed}
          house={step.feed === null}
          least={0.001}
          onCommit={(feed) => change({ feed: Math.round((feed / step.feed_share) * 1000) / 1000 })}
          onHouse={() => change({ feed: null })}
          why={why(plan, "feed")}
        />
      </span>
      <span className="num">chip {bare(plan.chip, unit, unit === "mm" ? 3 : 4)}</span>
      {reached && reached.seconds > 0 && (
        <Why
          text={`acceleration leaves ${speed(reached.feed, unit)} on average over ${reached.metres.toFixed(1)} m of this path`}
        >
          <Told>reaches {speed(reached.feed, unit)}</Told>
        </Why>
      )}
      {onFeeds && (
        <button className="underline decoration-dotted" onClick={onFeeds}>
          feed window
        </button>
      )}
    </p>
  );
}
