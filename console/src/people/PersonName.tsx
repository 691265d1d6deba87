// A person's name, and a field for another one.
import { t } from "@lingui/core/macro";
import { Button, Input } from "antd";
import { useState } from "react";

type Props = { name: string; onRename: (to: string, done: () => void) => void };

export function PersonName({ name, onRename }: Props) {
  const [to, setTo] = useState<string>(); // while it is changed
  const close = () => setTo(undefined);
  if (to === undefined) {
    return (
      <>
        {name}{" "}
        <Button size="small" type="text" className="quiet" aria-label={t`Rename ${name}`} onClick={() => setTo(name)}>
          {t`Rename`}
        </Button>
      </>
    );
  }
  return (
    <form
      className="inline-fields"
      onSubmit={(e) => {
        e.preventDefault();
        if (to.trim() === "" || to.trim() === name) close();
        else onRename(to.trim(), close); // a name that is refused stays, to be put right
      }}
    >
      <Input
        autoFocus
        size="small"
        aria-label={t`Name of ${name}`}
        value={to}
        onChange={(e) => setTo(e.target.value)}
        onKeyDown={(e) => e.key === "Escape" && close()}
        style={{ width: 180 }}
      />
      <Button size="small" htmlType="submit">{t`Save`}</Button>
    </form>
  );
}
