import { fixingsChange, listChange } from "../api/changes";
import type { CutMoment, Piece, XY } from "../api/model";
import { TabRow } from "../shared/TabRow";
import type { CutPicture } from "../table/CutLayer";
import { TableView } from "../table/TableView";
import { useJobView } from "./view";

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
};

/** The table of a job, with the edits that hands make on it, and the keys of its sheets. */
export function JobTable({ stock, sketch, onSketch, picture, places, moment, under }: Props) {
  const view = useJobView();
  const { job, setup, edits, station, sheet, search, selected, select, time, look } = view;
  const taped = (station === "cuts" || station === "prove") && !!view.plan?.cuts.length;
  const atStock = stock ?? sheet[0];
  return (
    <>
      <TableView
        job={job}
        setup={setup}
        sheet={atStock}
        copy={atStock === sheet[0] ? sheet[1] : 0}
        sketch={sketch}
        onSketch={onSketch}
        picture={picture}
        places={places}
        moment={moment}
        under={under}
        station={station}
        selected={selected}
        onSelect={select}
        time={taped ? time : null}
        preview={search.preview}
        look={look}
        onMove={(p) => edits.run(movePiece(setup.id, p))}
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
