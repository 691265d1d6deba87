// A form by a private link: nothing else of Kavlo is to be seen there.
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useLocation } from "react-router";
import { api, ask, fileBody } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";
import { EntryForm } from "./EntryForm";

export default function LinkedFormPage() {
  const secret = useLocation().hash.slice(1);
  const shown = useQuery({
    queryKey: ["form by link", secret],
    queryFn: () => ask(api.POST("/api/v1/forms/shown", { body: { secret } })),
    staleTime: Infinity,
  });
  return (
    <main className="linked-form">
      {shown.isPending && (
        <p className="quiet">
          <Trans>Loading…</Trans>
        </p>
      )}
      {shown.isError && (
        <>
          <h1>
            <Trans>Form</Trans>
          </h1>
          <ProblemNote error={shown.error} />
        </>
      )}
      {shown.data && (
        <>
          <h1>{shown.data.name}</h1>
          <EntryForm
            form={shown.data}
            people={[]}
            keep={`form ${secret.slice(0, 12)}`}
            keepFile={(column, file) =>
              ask(
                api.POST("/api/v1/forms/attachments", {
                  params: { header: { "Kavlo-Link": secret }, query: { field: column.id, name: file.name } },
                  ...fileBody(file),
                  headers: { ...fileBody(file).headers, "Kavlo-Link": secret },
                }),
              )
            }
            send={(cells, key) => ask(api.POST("/api/v1/forms/entries", { body: { secret, cells, key } }))}
          />
        </>
      )}
    </main>
  );
}
