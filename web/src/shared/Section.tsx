import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import type { ReactNode } from "react";

type Props = { title: ReactNode; figure?: ReactNode; open?: boolean; strong?: boolean; children: ReactNode };

/** One line that opens: what it is about, and its figure. */
export function Section({ title, figure, open, strong, children }: Props) {
  return (
    <Disclosure as="div" className="mt-1.5" defaultOpen={open}>
      <DisclosureButton
        className={`group flex min-h-6 w-full items-baseline gap-1.5 text-left ${strong ? "font-semibold" : "label"}`}
      >
        <span aria-hidden className="inline-block w-3 transition-transform group-data-open:rotate-90">
          ▸
        </span>
        <span className="min-w-0">{title}</span>
        {figure !== undefined && <span className="num ml-auto">{figure}</span>}
      </DisclosureButton>
      <DisclosurePanel>{children}</DisclosurePanel>
    </Disclosure>
  );
}
