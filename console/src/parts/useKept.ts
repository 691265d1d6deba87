// What somebody has half written is kept for them, over a dialog that closes and a page that
// is loaded again, until they have sent it or begin anew. Nobody else who signs in sees it.
import { useQueryClient } from "@tanstack/react-query";
import type { FormInstance } from "antd";
import { useEffect, useMemo, useState } from "react";
import type { Session } from "../api/client";

type Fields = Record<string, unknown>;

/** useKept keeps one thing under a name of its own. */
export function useKept<T>(under: string) {
  const person = useQueryClient().getQueryData<Session>(["session"])?.person.id ?? 0;
  const key = `kavlo draft ${person} ${under}`;
  return useMemo(
    () => ({
      read: (): T | undefined => {
        const text = sessionStorage.getItem(key);
        return text === null ? undefined : (JSON.parse(text) as T);
      },
      write: (value: T) => sessionStorage.setItem(key, JSON.stringify(value)),
      forget: () => sessionStorage.removeItem(key),
    }),
    [key],
  );
}

/** useKeptForm keeps what stands in a form, which otherwise begins with some values. */
export function useKeptForm(form: FormInstance<Fields>, under: string, begin?: Fields) {
  const kept = useKept<Fields>(under);
  const [isKept, setIsKept] = useState(() => kept.read() !== undefined);
  const first = JSON.stringify(begin ?? {});
  const restart = () => {
    kept.forget();
    setIsKept(false);
    form.resetFields();
    form.setFieldsValue(JSON.parse(first) as Fields);
  };
  useEffect(() => {
    form.resetFields();
    form.setFieldsValue(kept.read() ?? (JSON.parse(first) as Fields));
  }, [form, kept, first]);
  return {
    isKept, // what it shows was written before
    restart, // when it has been sent, or is not wanted
    onValuesChange: (_: Fields, all: Fields) => kept.write(all),
  };
}
