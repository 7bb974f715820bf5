import type { Alteration, Recipe } from "../../api/model";
import { Frame } from "../../job/Frame";
import { partsIn } from "../../job/partsIn";
import { useJobView, useKept } from "../../job/view";
import { MakeBoard, MakeDocket, type Making, useDrawn } from "../../making/MakeBench";
import { useEscape } from "../../shared/keys";
import { type Look, PartBoard, PartOpenDocket, usePartOpen } from "./PartOpen";
import { PartsInHand } from "./PartsInHand";
import { PartsDocket, PartsWall } from "./PartsStation";
import { RevisionBoard } from "./RevisionBoard";

const NO_LOOK: Look = { cutter: null, heal: null, hover: null };
const FIRST_MADE: Recipe = { kind: "panel", width: 600, height: 400, corner: "rounded", size: 30 };

/** The parts of the job: taken from drawings or made here, opened, judged and changed. */
export default function Parts() {
  const { job, setup, edits } = useJobView();
  const [all, setAll] = useKept<string[]>("parts.chosen", []),
    [open, setOpen] = useKept("parts.open", false),
    [making, setMaking] = useKept<Making | null>("parts.making", null),
    [look, setLook] = useKept<Look>("parts.look", NO_LOOK),
    [style, setStyle] = useKept("parts.style", "dog-bone");
  const mine = partsIn(job, setup),
    chosen = all.filter((id) => mine.some((p) => p.id === id)),
    part = chosen[chosen.length - 1] ?? null,
    setPart = (id: string | null) => setAll(id ? [id] : []);
  useEscape(() => !open && setAll([])); // an open part is closed first
  const opened = open ? partsIn(job, setup).find((p) => p.id === part) : undefined,
    facts = usePartOpen(job, opened),
    drawn = useDrawn(making?.recipe);
  const openPart = (id: string) => {
    setPart(id);
    setOpen(true);
    setMaking(null);
    setLook(NO_LOOK);
  };
  const change = (drawing: string) => {
    const made = job.drawings.find((x) => x.id === drawing)?.made;
    if (!made) return;
    setOpen(false);
    setMaking({ recipe: made, drawing });
  };
  const relieve = (at: [number, number]) => {
    const op = setup.operations.find((o) => o.on === "outlines"),
      cutter = setup.cutters.find((k) => k.id === op?.cutter);
    if (!opened) return;
    const radius = (cutter?.diameter ?? 6) / 2 + 0.05;
    const add = { kind: "relief" as const, style, radius, at: [at], under: 179, contours: [] };
    edits.run({ kind: "alter-part", part: opened.id, add: add as Alteration });
  };
  const docket = { job, setup, edits, selected: part, onChange: change };
  const board = edits.revised.length ? (
    <RevisionBoard key={edits.revised[0].file.name} revised={edits.revised[0]} setup={setup} edits={edits} />
  ) : making ? (
    <MakeBoard {...drawn} onClose={() => setMaking(null)} />
  ) : opened ? (
    <PartBoard part={opened} {...facts} look={look} onCorner={relieve} onClose={() => setOpen(false)} />
  ) : (
    <PartsWall
      {...{ job, setup, edits }}
      chosen={chosen}
      onChoose={setAll}
      onSelect={setPart}
      onOpen={openPart}
      onMake={() => setMaking({ recipe: FIRST_MADE })}
    />
  );
  const words = making ? (
    <MakeDocket {...{ job, setup, edits, making, setMaking, ...drawn }} onDone={() => setMaking(null)} />
  ) : opened ? (
    <PartOpenDocket
      key={opened.id}
      {...{ job, setup, edits, look, setLook, style, setStyle, ...facts }}
      part={opened}
      general={
        <PartsDocket
          {...docket}
          opened
          onSelect={(p) => {
            setPart(p);
            if (!p) setOpen(false);
          }}
        />
      }
    />
  ) : chosen.length > 1 ? (
    <PartsInHand
      parts={mine.filter((p) => chosen.includes(p.id))}
      {...{ setup, edits }}
      onDone={() => setAll([])}
    />
  ) : (
    <PartsDocket {...docket} onSelect={setPart} onOpen={openPart} />
  );
  return <Frame board={board} docket={words} />;
}
