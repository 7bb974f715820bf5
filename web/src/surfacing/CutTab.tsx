import { type BenchLine } from "../api/model";
import { BoardSize } from "./BoardSize";
import { Faces } from "./Faces";
import { HowCut } from "./HowCut";
import { KeepOuts } from "./KeepOuts";
import { PassTable } from "./PassTable";
import { OneProgram, Programs } from "./Programs";
import { type Tabs } from "./tab";

type Props = Tabs & { list: BenchLine[]; others: string[]; setOthers: (o: string[]) => void };

/** How a board is cut: where it lies, passes, what is kept clear of, and the programs. */
export function CutTab({ view, put, list, others, setOthers }: Props) {
  const b = view.bench.board;
  const more = list.filter((o) => o.id !== view.bench.id && o.kind === "board" && b.kind === "board");
  return (
    <>
      <BoardSize view={view} put={put} />
      <HowCut view={view} put={put} />
      <PassTable view={view} />
      <KeepOuts view={view} put={put} />
      {view.faces && <Faces view={view} put={put} />}
      {more.length > 0 && (
        <OneProgram view={view} put={put} more={more} others={others} setOthers={setOthers} />
      )}
      <Programs view={view} put={put} others={others} />
    </>
  );
}
