/** A sum in the shop's currency; without its name where nobody said it. */
export const money = (sum: number, currency: string, digits = 2) =>
  `${sum.toLocaleString("en-US", { minimumFractionDigits: digits, maximumFractionDigits: digits })} ${currency}`.trim();
