// A choice with its colour and, always, its word.
import { washOf } from "../theme";
import { useDark } from "./useMedia";

export function Chip({ name, colour }: { name: string; colour?: string }) {
  const isDark = useDark();
  return (
    <span className="chip" style={washOf(colour, isDark)}>
      {name}
    </span>
  );
}
