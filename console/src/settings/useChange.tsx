// Changes of setup: told of with a way to undo them, or with what refuses them.
import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button } from "antd";
import { api, ask, problemOf, type ChangeSet } from "../api/client";

// useChange makes a change, tells of it with a way to undo it, and of what refuses it.
export function useChange() {
  const queries = useQueryClient();
  const { notification } = App.useApp();
  return useMutation({
    mutationFn: ({ work }: { work: () => Promise<ChangeSet>; says: string }) => work(),
    onSuccess: (set, { says }) => {
      void queries.invalidateQueries();
      const seq = set.seq;
      const key = `set ${seq ?? 0}`;
      notification.success({
        key,
        title: says,
        actions: seq ? (
          <Button
            size="small"
            onClick={() => {
              notification.destroy(key);
              void ask(api.POST("/api/v1/undo/{what}", { params: { path: { what: String(seq) } } })).then(() =>
                queries.invalidateQueries(),
              );
            }}
          >
            {t`Undo`}
          </Button>
        ) : undefined,
      });
    },
    onError: (err) =>
      notification.error({
        title: problemOf(err).title,
        description: [problemOf(err).detail, ...(problemOf(err).conflicts ?? [])].join(" "),
        duration: 0,
      }),
  });
}
