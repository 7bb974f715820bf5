import type { Mark } from "../api/model";

/** How a station stands, by shape and colour. */
export function StateMark({ state }: { state: Mark }) {
  return (
    <svg width="13" height="13" viewBox="0 0 13 13" aria-hidden className="shrink-0">
      {state === "clear" && <circle cx="6.5" cy="6.5" r="5.6" fill="#1c4e49" />}
      {state === "untouched" && (
        <circle cx="6.5" cy="6.5" r="5" fill="none" stroke="#625d53" strokeWidth="1.4" />
      )}
      {state === "in hand" && (
        <>
          <circle cx="6.5" cy="6.5" r="5" fill="none" stroke="#1c4e49" strokeWidth="1.4" />
          <path d="M6.5 1.5a5 5 0 0 0 0 10z" fill="#1c4e49" />
        </>
      )}
      {state === "held up" && (
        <>
          <rect x=".8" y=".8" width="11.4" height="11.4" fill="#f7e3dd" stroke="#a92f22" strokeWidth="1.4" />
          <path d="M1 9L9 1M3.5 12L12 3.5" stroke="#a92f22" strokeWidth="1.6" />
        </>
      )}
    </svg>
  );
}
