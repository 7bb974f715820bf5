import { type BenchLine } from "../api/model";
import { type Bench, type BenchView } from "../api/model";
import { BoardSize } from "./BoardSize";
import { Faces } from "./Faces";
import { HowCut } from "./HowCut";
import { KeepOuts } from "./KeepOuts";
import { PassTable } from "./PassTable";
import { OneProgram, Programs } from "./Programs";
import { FaceKeys, TurnedOver } from "./SecondFace";
import { type Face, type Tabs } from "./tab";

/** ``whole``: the board with both its faces, ``putWhole`` changes that. */
type Props = Tabs & {
  list: BenchLine[];
  others: string[];
  setOthers: (o: string[]) => void;
  whole: BenchView;
  putWhole: (f: Partial<Bench>) => void;
  face: Face;
  setFace: (f: Face) => void;
};

/** How a board is cut: where it lies, passes, what is kept clear of, and the programs. */
export function CutTab({ view, put, list, others, setOthers, whole, putWhole, face, setFace }: Props) {
  const b = view.bench.board;
  const more = list.filter((o) => o.id !== view.bench.id && o.kind === "board" && b.kind === "board");
  return (
    <>
      <FaceKeys view={whole} put={putWhole} face={face} setFace={setFace} />
      <BoardSize view={view} put={put} face={face} />
      {face === 2 && <TurnedOver whole={whole} put={putWhole} />}
      <HowCut view={view} put={put} face={face} />
      <PassTable view={view} />
      <KeepOuts view={view} put={put} />
      {whole.faces && <Faces view={whole} put={putWhole} />}
      {more.length > 0 && (
        <OneProgram
          view={whole}
          put={putWhole}
          more={more}
          others={others}
          setOthers={setOthers}
          face={face}
        />
      )}
      <Programs view={whole} put={putWhole} others={others} />
    </>
  );
}
