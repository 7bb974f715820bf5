import { Over } from "../shared/Over";
import { Reckonings } from "./Reckonings";
import type { Typed } from "./Sum";

/** The reckonings over whatever is on the screen. */
export default function ReckoningsPanel({
  open,
  start,
  onOpen,
  close,
}: {
  open: string;
  start: Typed;
  onOpen: (name: string) => void;
  close: () => void;
}) {
  return (
    <Over title="Reckonings" size="bench" close={close}>
      <Reckonings open={open} onOpen={onOpen} start={start} />
    </Over>
  );
}
