// What the selected cells come to: how many hold something, and of numbers their sum,
// average, smallest and largest, to the last decimal.

export type Sums = { filled: number; numbers: number; sum: string; average: string; least: string; most: string };

const form = /^([+-]?)(\d+)(?:\.(\d+))?$/;

/** sumsOf works out what values come to, as the service gives them; an average has so many
    decimals, or four more than its numbers. */
export function sumsOf(values: unknown[], decimals?: number): Sums {
  const filled = values.filter((v) => v !== null && v !== undefined && v !== "" && !(Array.isArray(v) && !v.length));
  const parts = filled.flatMap((v) => {
    const found = typeof v === "number" || typeof v === "string" ? form.exec(String(v)) : null;
    return found && typeof v !== "boolean" ? [found] : [];
  });
  const scale = Math.max(0, ...parts.map((p) => p[3]?.length ?? 0));
  const scaled = parts.map((p) => BigInt(`${p[1] === "-" ? "-" : ""}${p[2] ?? ""}${(p[3] ?? "").padEnd(scale, "0")}`));
  const sum = scaled.reduce((a, b) => a + b, 0n);
  const least = scaled.reduce<bigint | undefined>((a, b) => (a === undefined || b < a ? b : a), undefined);
  const most = scaled.reduce<bigint | undefined>((a, b) => (a === undefined || b > a ? b : a), undefined);
  const more = decimals === undefined ? 4 : Math.max(0, decimals - scale);
  const count = BigInt(Math.max(1, scaled.length));
  return {
    filled: filled.length,
    numbers: scaled.length,
    sum: written(sum, scale),
    average: written(rounded(sum * 10n ** BigInt(more), count), scale + more),
    least: written(least ?? 0n, scale),
    most: written(most ?? 0n, scale),
  };
}

function rounded(n: bigint, by: bigint): bigint {
  const half = n < 0n ? -by : by;
  return (2n * n + half) / (2n * by);
}

// written gives a number of so many decimals, without zeros at its end.
function written(n: bigint, scale: number): string {
  const digits = (n < 0n ? -n : n).toString().padStart(scale + 1, "0");
  const whole = digits.slice(0, digits.length - scale);
  const part = digits.slice(digits.length - scale).replace(/0+$/, "");
  return `${n < 0n ? "-" : ""}${whole}${part && `.${part}`}`;
}
