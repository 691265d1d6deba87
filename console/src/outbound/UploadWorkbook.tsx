// Handing over a workbook: for rules to write into, or as a template that they make
// others of.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input, Modal, Radio, Upload } from "antd";
import { useState } from "react";
import { api, ask, fileBody } from "../api/client";
import { ProblemNote } from "../parts/ProblemNote";

export function UploadWorkbook({ tracker }: { tracker: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>{t`Upload a workbook`}</Button>
      {open && <UploadDialog tracker={tracker} onClose={() => setOpen(false)} />}
    </>
  );
}

export function UploadDialog({ tracker, onClose }: { tracker: string; onClose: () => void }) {
  const [file, setFile] = useState<File>();
  const [name, setName] = useState("");
  const [template, setTemplate] = useState(false);
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const send = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/v1/trackers/{tracker}/outbound/file", {
          params: { path: { tracker }, query: { path: name, template: template ? "yes" : "no" } },
          ...fileBody(file as File),
        }),
      ),
    onSuccess: (done) => {
      void queries.invalidateQueries({ queryKey: ["outbound", tracker] });
      notification.success({
        title: t`Uploaded`,
        description: template
          ? t`In a rule's write step, it is "from: ${done.path}".`
          : t`In a rule's write step, it is "file: ${name}".`,
        duration: 0,
      });
      onClose();
    },
  });
  return (
    <Modal
      open
      title={t`Upload a workbook`}
      okText={t`Upload`}
      okButtonProps={{ disabled: !file || name.trim() === "", loading: send.isPending }}
      onOk={() => send.mutate()}
      onCancel={onClose}
    >
      <Upload.Dragger
        accept=".xlsx"
        maxCount={1}
        showUploadList={false}
        beforeUpload={(f) => {
          setFile(f);
          setName(f.name);
          return false;
        }}
      >
        {file ? t`${file.name}: drop another workbook here, or choose one` : t`Drop a workbook here, or choose one`}
      </Upload.Dragger>
      <label className="field">
        <Trans>
          Name
          <Input value={name} onChange={(e) => setName(e.target.value)} placeholder="reports/month.xlsx" />
        </Trans>
      </label>
      <Radio.Group value={template} onChange={(e) => setTemplate(e.target.value as boolean)} className="field">
        <Radio value={false}>
          <Trans>Rules write into it</Trans>
        </Radio>
        <Radio value={true}>
          <Trans>Template: rules make new workbooks from it</Trans>
        </Radio>
      </Radio.Group>
      <p className="quiet">
        <Trans>A file of that name is replaced{template ? "." : t`, and its version kept.`}</Trans>
      </p>
      {send.isError && <ProblemNote error={send.error} />}
    </Modal>
  );
}
