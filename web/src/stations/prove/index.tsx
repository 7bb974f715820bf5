import { useState } from "react";

import type { XY } from "../../api/model";
import { Frame } from "../../job/Frame";
import { JobTable } from "../../job/JobTable";
import { useJobView, useKept } from "../../job/view";
import { KerfProve } from "../../kerf/KerfProve";
import { onKerfTable } from "../../kerf/useKerf";
import { useUnit } from "../../shared/lengths";
import { useMoment } from "../../tape/useMoment";
import { DepthScale } from "./DepthScale";
import { ModelScale } from "./ModelScale";
import { ProveDocket } from "./ProveDocket";
import { SectionPanel } from "./SectionPanel";
import { Under } from "./UnderPointer";
import { useCutPicture, useLeft } from "./asCut";
import { lineStep } from "./lineStep";

/** The programs, read back and held against plan and world, and the sheet as they cut it. */
export default function Prove() {
  return onKerfTable(useJobView().setup) ? <KerfProve /> : <ProveBySteps />;
}

function ProveBySteps() {
  const { setup, proof, edits } = useJobView();
  return <Frame board={<Board />} docket={<ProveDocket setup={setup} proof={proof} edits={edits} />} />;
}

type Look = "cut" | "models" | "held";
const CALLED: Record<Look, string> = {
  cut: "As it is cut",
  models: "Against the model",
  held: "How it is held",
};

/** What can be looked at, and what is: the sheet as it is cut, held against its reliefs where there are any, or how it is held. */
function useLook() {
  const { plan } = useJobView();
  const [kept, setLook] = useKept<Look>("prove-look", "cut");
  const carves = !!plan?.cuts.some((c) => c.kind.startsWith("relief"));
  const looks: Look[] = carves ? ["cut", "models", "held"] : ["cut", "held"];
  return { look: looks.includes(kept) ? kept : "cut", looks, setLook } as const;
}

function Board() {
  const { setup, sheet, plan, time } = useJobView(),
    { unit } = useUnit();
  const { look, looks, setLook } = useLook(),
    [line, setLine] = useState<XY[] | null>(null);
  const stock = setup.stock.find((s) => s.id === sheet[0]),
    every = lineStep(stock?.thickness ?? 18, unit);
  const picture = useCutPicture(every, look === "models"),
    left = useLeft(),
    moment = useMoment();
  const cut = look !== "held" && !!plan?.cuts.length && !!stock;
  const click = (p: XY) => setLine((now) => (now && now.length === 1 ? [now[0], p] : [p]));
  const shown = cut
    ? {
        picture,
        moment,
        under: (at: XY | null) => <Under at={at} />,
        sketch: line ?? undefined,
        onSketch: line ? click : undefined,
      }
    : {};
  return (
    <>
      <JobTable places={time === null ? left.data?.map((p) => p.at) : undefined} {...shown} />
      {!!plan?.cuts.length && (
        <LookKeys
          {...{ look, looks, setLook, cut }}
          lined={!!line}
          onSection={() => setLine(line ? null : [])}
        />
      )}
      {cut && !line && <Scale {...{ look, looks, every }} thickness={stock.thickness} />}
      {cut && line && <SectionPanel line={line} setLine={setLine} close={() => setLine(null)} />}
    </>
  );
}

type ScaleProps = { look: Look; looks: Look[]; thickness: number; every: number };
const Scale = ({ look, looks, thickness, every }: ScaleProps) =>
  look === "models" ? (
    <ModelScale />
  ) : (
    <DepthScale thickness={thickness} step={every} above={looks.includes("models")} />
  );

type Keys = {
  look: Look;
  looks: Look[];
  setLook: (l: Look) => void;
  cut: boolean;
  lined: boolean;
  onSection: () => void;
};

/** What the table shows: the sheet as it is cut, with a section if it is wanted, or how it is held. */
function LookKeys({ look, looks, setLook, cut, lined, onSection }: Keys) {
  return (
    <div
      data-over
      className="absolute bottom-8 left-44 flex gap-1 text-small max-xl:bottom-16 max-xl:left-11 max-md:bottom-8 max-md:left-auto max-md:right-2"
      role="group"
      aria-label="What the table shows"
    >
      {looks.map((v) => (
        <button
          key={v}
          className={`${look === v ? "key-strong" : "key"} !py-0`}
          aria-pressed={look === v}
          onClick={() => setLook(v)}
        >
          {CALLED[v]}
        </button>
      ))}
      {cut && (
        <button className={`${lined ? "key-strong" : "key"} !py-0`} aria-pressed={lined} onClick={onSection}>
          Section
        </button>
      )}
    </div>
  );
}
