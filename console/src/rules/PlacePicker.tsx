// Where in a workbook rows are written, picked on a picture of it: a sheet and a cell.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Button, Modal, Select, Tabs, Upload } from "antd";
import { useState } from "react";
import { api, ask, fileBody, type Reading, type ReadSheet } from "../api/client";
import { Picture } from "../files/Picture";
import { ProblemNote } from "../parts/ProblemNote";
import { fileAt } from "../outbound/fileAt";
import "../files/files.css";

type Place = { sheet: string; at: string };
type Props = { tracker: string; onPick: (place: Place) => void };

// At least so much of a sheet is drawn, so that a place beside what is there can be picked.
const rowsShown = 30;
const columnsShown = 12;

/** roomy gives a sheet with blank cells beside and below what it holds. */
export function roomy(sheet: ReadSheet): ReadSheet {
  const width = Math.max(columnsShown, ...sheet.cells.map((r) => r.length + 2));
  const height = Math.max(rowsShown, sheet.cells.length + (sheet.rows > sheet.cells.length ? 0 : 5));
  const cells = Array.from({ length: height }, (_, r) =>
    Array.from({ length: width }, (_, c) => sheet.cells[r]?.[c] ?? ""),
  );
  return { ...sheet, cells, tables: [], left_out: [] };
}

export function PlacePicker({ tracker, onPick }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)}>
        {t`Pick the place`}
      </Button>
      {open && (
        <PickDialog
          tracker={tracker}
          onClose={() => setOpen(false)}
          onPick={(place) => {
            setOpen(false);
            onPick(place);
          }}
        />
      )}
    </>
  );
}

function PickDialog({ tracker, onPick, onClose }: Props & { onClose: () => void }) {
  const [place, setPlace] = useState<Place>();
  const files = useQuery({
    queryKey: ["outbound", tracker],
    queryFn: () => ask(api.GET("/api/v1/trackers/{tracker}/outbound", { params: { path: { tracker } } })),
  });
  const look = useMutation({
    mutationFn: async (of: File | string): Promise<Reading> => {
      const file = typeof of === "string" ? await fetched(tracker, of) : of;
      return ask(api.POST("/api/v1/readings", { params: { query: { name: file.name } }, ...fileBody(file) }));
    },
    onSuccess: () => setPlace(undefined),
  });
  const workbooks = (files.data ?? []).filter((f) => !f.gone && f.path.endsWith(".xlsx"));
  return (
    <Modal
      open
      width={980}
      title={t`Where in the workbook?`}
      okText={place ? t`Write from ${place.at} of ${place.sheet}` : t`Pick a cell`}
      okButtonProps={{ disabled: !place }}
      onOk={() => place && onPick(place)}
      onCancel={onClose}
    >
      <div className="inline-fields">
        {workbooks.length > 0 && (
          <Select
            aria-label={t`Workbook`}
            placeholder={t`a workbook that is there`}
            options={workbooks.map((f) => ({ value: f.path, label: f.path }))}
            onChange={(path: string) => look.mutate(path)}
            style={{ minWidth: 260 }}
          />
        )}
        <Upload
          accept=".xlsx"
          showUploadList={false}
          beforeUpload={(f) => {
            look.mutate(f);
            return false;
          }}
        >
          <Button>{t`Open a workbook from this computer`}</Button>
        </Upload>
        {look.isPending && (
          <span className="quiet">
            <Trans>Reading…</Trans>
          </span>
        )}
      </div>
      {files.isError && <ProblemNote error={files.error} />}
      {look.isError && <ProblemNote error={look.error} />}
      {look.data && (
        <Tabs
          onChange={() => setPlace(undefined)}
          items={look.data.sheets.map((sheet) => ({
            key: sheet.name,
            label: sheet.name,
            children: (
              <Picture
                sheet={roomy(sheet)}
                picked={place?.sheet === sheet.name ? place.at : undefined}
                onPick={(at) => setPlace({ sheet: sheet.name, at })}
              />
            ),
          }))}
        />
      )}
    </Modal>
  );
}

async function fetched(tracker: string, path: string): Promise<File> {
  const answer = await fetch(fileAt(tracker, path));
  if (!answer.ok) throw new Error(t`${path} cannot be opened.`);
  return new File([await answer.blob()], path.split("/").at(-1) ?? path);
}
