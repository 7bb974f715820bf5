/** A moment as it is answered; one without a zone is UTC. */
export const moment = (made: string) => new Date(/(Z|[+-]\d\d:\d\d)$/.test(made) ? made : `${made}Z`);

/** When it was, here: the time today, the date before. */
export function when(made: string): string {
  const at = moment(made),
    today = at.toDateString() === new Date().toDateString();
  const two = (n: number) => String(n).padStart(2, "0");
  return today
    ? at.toTimeString().slice(0, 5)
    : `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
}
