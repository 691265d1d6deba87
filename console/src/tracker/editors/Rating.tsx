// One to five, by one click; a digit typed into the field does the same.
import { t } from "@lingui/core/macro";

const marks = [1, 2, 3, 4, 5];

export function Rating({ text, onPick }: { text: string; onPick: (text: string) => void }) {
  return (
    <div className="cell-rating" role="group" aria-label={t`Rating`}>
      {marks.map((n) => (
        <button key={n} type="button" tabIndex={-1} aria-pressed={text === String(n)} onClick={() => onPick(String(n))}>
          {n}
        </button>
      ))}
      <span className="quiet">{t`of 5`}</span>
    </div>
  );
}
