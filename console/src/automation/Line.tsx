// One line of a sentence: the word it begins with, and what may be chosen.
import type { ReactNode } from "react";

export function Line({ word, children }: { word?: string; children: ReactNode }) {
  return (
    <div className="rule-line">
      <span className="rule-word">{word}</span>
      {children}
    </div>
  );
}
