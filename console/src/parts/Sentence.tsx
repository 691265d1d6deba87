// A sentence of a definition, with what stands in backticks (a clause) set as code.
export function Sentence({ text = "" }: { text?: string }) {
  const parts = text.split(/`([^`]*)`/);
  return <>{parts.map((part, i) => (i % 2 ? <code key={i}>{part}</code> : part))}</>;
}
