// What stands in the place of a page that could not be loaded: it tries again by
// itself until the service answers.
import { Button } from "antd";
import { useEffect } from "react";

const rest = 2_000; // milliseconds between tries

export function AwayPage() {
  useEffect(() => {
    const timer = window.setInterval(() => {
      fetch("/healthz", { cache: "no-store" })
        .then((answer) => {
          if (answer.ok) window.location.reload();
        })
        .catch(() => undefined); // still away
    }, rest);
    return () => window.clearInterval(timer);
  }, []);
  return (
    <div className="page" role="alert">
      <h1>This page could not be loaded</h1>
      <p>The service does not answer. The page comes by itself once it does.</p>
      <Button onClick={() => window.location.reload()}>Try now</Button>
    </div>
  );
}
