/** When it was, here: the time today, the date before. */
export function when(made: string): string {
  const at = new Date(`${made}Z`),
    today = at.toDateString() === new Date().toDateString();
  const two = (n: number) => String(n).padStart(2, "0");
  return today
    ? at.toTimeString().slice(0, 5)
    : `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
}
