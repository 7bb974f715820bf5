import { useEffect, useRef } from "react";

/** A box that is ticked takes no letters: undo and the stations' keys go on working after it. */
const TAKES_KEYS =
  "input:not([type=checkbox]), select, textarea, [contenteditable=true], [role=listbox], [role=combobox], [role=menu], [role=dialog]";

/** Does what has the focus take keys for itself? Then no shortcut fires. */
export const typing = (e: KeyboardEvent) => e.target instanceof Element && !!e.target.closest(TAKES_KEYS);

/** The field that has just been opened takes what is typed. */
export const focusHere = (field: HTMLElement | null) => field?.focus();

/** Has a key with Ctrl, Command or Alt, which belongs to the browser, been pressed? */
export const withModifier = (e: KeyboardEvent) => e.ctrlKey || e.metaKey || e.altKey;

/** Hear keys anywhere on the page. */
export function useKeys(press: (e: KeyboardEvent) => void) {
  const now = useRef(press);
  useEffect(() => {
    now.current = press;
  });
  useEffect(() => {
    const heard = (e: KeyboardEvent) => now.current(e);
    window.addEventListener("keydown", heard);
    return () => window.removeEventListener("keydown", heard);
  }, []);
}

/** Esc leaves what was opened, unless it was for something else. */
export const useEscape = (leave: () => void) =>
  useKeys((e) => {
    if (e.key === "Escape" && !typing(e) && !e.defaultPrevented) leave();
  });

/** The focus goes to what stands beside something that is about to be taken away. */
export function focusBeside(from: Element, like: string) {
  const all = [...document.querySelectorAll<HTMLElement | SVGElement>(like)],
    at = all.findIndex((el) => el === from);
  (all[at + 1] ?? all[at - 1])?.focus();
}
