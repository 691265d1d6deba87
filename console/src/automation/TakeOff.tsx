// Takes one part off a sentence.
import { Button } from "antd";

export function TakeOff({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <Button type="text" size="small" aria-label={label} onClick={onClick}>
      ×
    </Button>
  );
}
