import { useEffect, useState } from "react";

import { fixingsChange, listChange } from "../api/changes";
import type { CutMoment, Piece, Setup, XY } from "../api/model";
import { useLaidAt, useShownPosition } from "../indexing/shownAt";
import { TabRow } from "../shared/TabRow";
import type { CutPicture } from "../table/CutLayer";
import { TableView } from "../table/TableView";
import { useJobView } from "./view";

/** Pieces lie where a hand put them until the server has answered: the next key goes on from there. */
function useAhead(busy: boolean) {
  const [ahead, setAhead] = useState<ReadonlyMap<string, Piece>>(NONE);
  useEffect(() => {
    if (!busy) setAhead(NONE);
  }, [busy]);
  const goAhead = (all: Piece[]) =>
    setAhead((now) => new Map([...now, ...all.map((p): [string, Piece] => [p.id, p])]));
  return { ahead, goAhead };
}
const NONE: ReadonlyMap<string, Piece> = new Map();

const round = (v: number) => Math.round(v * 1e4) / 1e4;

type Props = {
  /** Another stock line than the sheet that is shown. */
  stock?: string | null;
  sketch?: XY[];
  onSketch?: (p: XY) => void;
  picture?: CutPicture;
  places?: XY[];
  moment?: CutMoment | null;
  under?: (at: XY | null) => React.ReactNode;
  /** What is drawn over the pieces, in the sheet's coordinates; ``k``: pixels a millimetre. */
  layer?: (k: number) => React.ReactNode;
};

/** The table of a job, with the edits that hands make on it, and the keys of its sheets. */
export function JobTable({ stock, sketch, onSketch, picture, places, moment, under, layer }: Props) {
  const view = useJobView();
  const { job, setup, edits, station, sheet, search, selected, select, time, look } = view;
  const taped = ["cuts", "prove", "release"].includes(station) && !!view.plan?.cuts.length;
  const atStock = stock ?? sheet[0];
  const { ahead, goAhead } = useAhead(edits.busy);
  const [position] = useShownPosition();
  const laid = useLaidAt(setup, position);
  return (
    <>
      <TableView
        job={job}
        setup={laid}
        position={position}
        sheet={atStock}
        copy={atStock === sheet[0] ? sheet[1] : 0}
        sketch={sketch}
        onSketch={onSketch}
        picture={picture}
        places={places}
        moment={moment}
        under={under}
        layer={layer}
        station={station}
        selected={selected}
        onSelect={select}
        time={taped ? time : null}
        preview={search.preview}
        look={look}
        chosen={view.chosen}
        onChoose={view.choose}
        ahead={ahead}
        onMove={(p) => {
          goAhead([p]);
          edits.run(movePiece(setup.id, p));
        }}
        onMoveAll={(all, does) => {
          goAhead(all);
          edits.run(changePieces(setup, all, does));
        }}
        onMore={(all) => edits.run(morePieces(setup.id, all))}
        onTabs={(part, contour, tabs) =>
          edits.run({
            kind: "set-contour",
            part,
            contour,
            tabs: tabs.map(([x, y]) => [round(x), round(y)]),
          })
        }
        onScrews={(screws) =>
          edits.run({ kind: "change-screws", setup: setup.id, ...listChange(setup.screws, screws) })
        }
        onFixings={(fixings) =>
          edits.run({ kind: "change-fixings", setup: setup.id, ...fixingsChange(setup.fixings, fixings) })
        }
        onStart={(part, contour, [x, y]) =>
          edits.run({ kind: "set-contour", part, contour, start: [round(x), round(y)] })
        }
      />
      <SheetKeys at={atStock} />
    </>
  );
}

export const movePiece = (setup: string, p: Piece) => ({
  kind: "move-piece" as const,
  setup,
  part: p.part,
  copy_no: p.copy_no,
  x: round(p.x),
  y: round(p.y),
  rotation: p.rotation,
  mirrored: p.mirrored,
  sheet: p.sheet,
  sheet_copy: p.sheet_copy,
});

/** Several pieces as they come to lie. */
export const changePieces = (
  setup: Setup,
  now: Piece[],
  does: "moved" | "turned" | "aligned" | "spread out" | "centred",
) => ({
  kind: "change-pieces" as const,
  setup: setup.id,
  does,
  pieces: now.map((p) => ({
    part: p.part,
    copy_no: p.copy_no,
    x: round(p.x),
    y: round(p.y),
    ...(does === "turned" && { rotation: p.rotation }),
  })),
});

/** As many pieces more, where they are to lie. */
const morePieces = (setup: string, all: Piece[]) => ({
  kind: "change-pieces" as const,
  setup,
  more: all.map((p) => ({
    part: p.part,
    x: round(p.x),
    y: round(p.y),
    rotation: p.rotation,
    mirrored: p.mirrored,
    sheet: p.sheet,
    sheet_copy: p.sheet_copy,
  })),
});

function SheetKeys({ at }: { at: string }) {
  const { sheets, sheet, show } = useJobView();
  if (sheets.length < 2) return null;
  return (
    <TabRow
      label="Sheets"
      tabs={sheets.map((s, i) => [s.join("/"), `Sheet ${i + 1}`] as const)}
      value={`${at}/${sheet[1]}`}
      onPick={(key) => show(...sheets.find((s) => s.join("/") === key)!)}
      className="absolute left-11 top-2 max-w-[60%] text-small"
    />
  );
}
