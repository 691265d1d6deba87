// Who is signed in, and signing out.
import { t } from "@lingui/core/macro";
import { useQueryClient } from "@tanstack/react-query";
import { App, Button } from "antd";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { api, ask, problemOf } from "../api/client";
import { leave as leaveEdits } from "../tracker/editQueues";
import { forget } from "../tracker/stores";

export function SignedIn({ name }: { name: string }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const here = useRef(false);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);
  const leave = async () => {
    try {
      await ask(api.DELETE("/api/v1/session"));
    } catch (err) {
      notification.error({ title: problemOf(err).title, description: problemOf(err).detail, duration: 0 });
      return;
    }
    // Whatever else asks finds that the session is over, maybe before the answer is here: the
    // sign-in page stands there then, and may have signed somebody in already.
    if (!here.current) return;
    queries.clear();
    leaveEdits();
    forget();
    await navigate("/sign-in");
  };
  return (
    <div className="top-person">
      <span>{name}</span>
      <Button type="link" size="small" onClick={() => void leave()}>
        {t`Sign out`}
      </Button>
    </div>
  );
}
