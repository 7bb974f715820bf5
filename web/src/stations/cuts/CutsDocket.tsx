import { useState } from "react";
import { Link } from "react-router";

import type { Edits } from "../../api/edits";
import { type Job, type Operation, type Setup, type SheetPlan, type Snag, snagsOf } from "../../api/model";
import { CarveDocket } from "../../carving/CarveDocket";
import { carvable, type CarveLook } from "../../carving/carving";
import { FeedsBench } from "../../feeds/FeedsBench";
import { HoldDocket } from "../../holding/HoldBench";
import { useJobView } from "../../job/view";
import { OrderDocket } from "../../order/OrderBench";
import { Snags } from "../../shared/Snags";
import { TabRow } from "../../shared/TabRow";
import { ByCutter } from "./ByCutter";
import { ByFeature } from "./ByFeature";
import { PartCuts } from "./PartCuts";
import { StepsInHand } from "./StepsInHand";
import { ChosenStepsContext, stepKey } from "./chosenSteps";
import type { Asked } from "./features";

type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  selected: string | null;
  plan?: SheetPlan;
  onSelect: (id: string | null) => void;
  time: number | null;
  setTime: (t: number | null) => void;
};
export type CutsView = "cut" | "carve" | "held" | "order";
export function CutsDocket(
  props: Props & {
    view: CutsView;
    setView: (v: CutsView) => void;
    carve: CarveLook;
    setCarve: (c: CarveLook) => void;
  },
) {
  const { view, setView } = props;
  const tabs: [CutsView, string][] = [
    ["cut", "how cut"],
    ...(carvable(props.job, props.setup).length ? [["carve", "how carved"] as [CutsView, string]] : []),
    ["held", "how held"],
    ["order", "in which order"],
  ];
  return (
    <>
      <TabRow label="What is looked at" tabs={tabs} value={view} onPick={setView} look="line" />
      {view === "carve" ? (
        <CarveDocket {...props} look={props.carve} setLook={props.setCarve} />
      ) : view === "order" ? (
        <OrderDocket {...props} />
      ) : view === "held" && !props.selected ? (
        <HoldDocket {...props} />
      ) : (
        <CutDocket {...props} held={view === "held"} onHeld={() => setView("held")} />
      )}
    </>
  );
}

function CutDocket(props: Props & { held: boolean; onHeld: () => void }) {
  const { job, setup, edits, selected, onSelect, held, onHeld } = props;
  const [bench, setBench] = useState<Asked>(null),
    [group, setGroup] = useState<"part" | "cutter">("part"),
    [chosen, setChosen] = useState<string[]>([]);
  const choosing = {
    chosen,
    toggle: (step: Operation) => {
      const key = stepKey(step);
      setChosen((now) => (now.includes(key) ? now.filter((k) => k !== key) : [...now, key]));
    },
  };
  const { chooseSetup } = useJobView();
  const piece = setup.pieces.find((p) => p.id === selected),
    part = piece && job.parts.find((p) => p.id === piece.part);
  const snags = snagsOf("cuts", setup);
  const stops = snags.filter((s) => s.severity === "stop"),
    rest = snags.filter((s) => s.severity !== "stop");
  const find = (s: Snag) =>
    onSelect((s.where?.piece as string) ?? setup.pieces.find((p) => p.part === s.where?.part)?.id ?? null);
  if (bench)
    return (
      <FeedsBench
        ask={bench.ask}
        title={bench.title}
        onBack={() => setBench(null)}
        onKeep={
          bench.keep &&
          ((rpm, feed) => {
            bench.keep!(rpm, feed);
            setBench(null);
          })
        }
      />
    );
  if (piece && part)
    return (
      <PartCuts
        {...props}
        held={held}
        onHeld={onHeld}
        partId={part.id}
        onBench={setBench}
        snags={snags.filter((s) => s.where?.part === part.id || s.where?.piece === piece.id)}
      />
    );
  return (
    <>
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="text-figure font-semibold">How it is cut</h2>
        <div className="flex gap-1 text-small" role="group" aria-label="Grouped">
          {(["part", "cutter"] as const).map((g) => (
            <button
              key={g}
              className={`${group === g ? "key-strong" : "key"} !px-2 !py-0`}
              aria-pressed={group === g}
              onClick={() => setGroup(g)}
            >
              {g === "part" ? "by feature" : "by cutter"}
            </button>
          ))}
        </div>
      </div>
      <p className="label">
        For all parts of {setup.name}. Choose a piece on the table for its own.{" "}
        <Link className="underline" to="/library">
          Shop library
        </Link>
      </p>
      {setup.news.map((n) => (
        <p
          key={n.kind + n.name}
          className="mt-1.5 flex items-baseline justify-between gap-2 border border-line bg-accent-soft px-2 py-1 text-small"
        >
          <span>
            The library has a newer {n.kind === "house rules" ? "set of house rules" : `${n.kind}, ${n.name}`}
            : {n.changes.join(", ")}.
          </span>
          <button className="key shrink-0 !py-0" onClick={() => edits.run(n.command)}>
            Adopt
          </button>
        </p>
      ))}
      {stops.length > 0 && <Snags snags={stops} edits={edits} onFind={find} most={6} />}
      {setup.turned?.number === 3 && (
        <p className="mt-1.5 border border-line bg-accent-soft px-2 py-1 text-small">
          The first face is up once more: its steps are changed where it was roughed.{" "}
          <button className="underline" onClick={() => chooseSetup(setup.turned!.first)}>
            Show the first face
          </button>
        </p>
      )}
      <StepsInHand {...{ setup, edits, chosen }} onDone={() => setChosen([])} />
      {group === "part" ? (
        <ChosenStepsContext.Provider value={choosing}>
          <ByFeature {...props} onBench={setBench} />
        </ChosenStepsContext.Provider>
      ) : (
        <ByCutter {...props} onBench={setBench} />
      )}
      {(rest.length > 0 || !stops.length) && <Snags snags={rest} edits={edits} onFind={find} />}
    </>
  );
}
