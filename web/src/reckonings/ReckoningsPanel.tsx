import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";

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
    <Dialog open onClose={close} className="relative z-50">
      <div className="fixed inset-0 bg-ink/30" aria-hidden />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel className="flex h-full max-h-[640px] w-full max-w-[1120px] flex-col border-2 border-ink bg-paper p-4">
          <div className="mb-2 flex items-baseline justify-between">
            <DialogTitle className="text-head font-semibold">Reckonings</DialogTitle>
            <button className="key" onClick={close}>
              Close
            </button>
          </div>
          <Reckonings open={open} onOpen={onOpen} start={start} />
        </DialogPanel>
      </div>
    </Dialog>
  );
}
