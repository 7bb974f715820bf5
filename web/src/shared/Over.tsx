import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

const SIZE = {
  question: "max-w-md",
  form: "max-w-2xl",
  page: "max-w-3xl",
  wide: "max-w-[1180px]",
  bench: "h-full max-h-[640px] max-w-[1120px]",
};

/** Something that lies over the page until it is closed: Esc, a click beside it, or its key. */
export function Over({
  title,
  size,
  keyed = true,
  close,
  children,
}: {
  title: string;
  size: keyof typeof SIZE;
  /** With a key that closes it; a question has its own. */
  keyed?: boolean;
  close: () => void;
  children: ReactNode;
}) {
  return (
    <Dialog open onClose={close} className="relative z-50">
      <div className="fixed inset-0 bg-ink/30" aria-hidden />
      <div className="fixed inset-0 grid place-items-center overflow-y-auto p-4">
        <DialogPanel
          className={`flex max-h-full w-full flex-col overflow-auto border-2 border-ink bg-paper p-4 ${SIZE[size]}`}
        >
          <div className="flex items-baseline justify-between">
            <DialogTitle className="text-figure font-semibold">{title}</DialogTitle>
            {keyed && (
              <button className="key" onClick={close}>
                Close
              </button>
            )}
          </div>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
