/** A personal link is opened: what follows the # of the address lets a student, or a parent, in. */
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { ApiError } from "../../api/client";
import { useOpenLink } from "../../api/queries/me";
import { Button, Problem } from "../../ui/kit";
import { Field, Frame } from "./Frame";

const isPinAsked = (error: unknown) => error instanceof ApiError && error.where === "pin";

export function ComeIn() {
  const open = useOpenLink();
  const navigate = useNavigate();
  const [token, setToken] = useState(() => decodeURIComponent(location.hash.slice(1)));
  const [pin, setPin] = useState("");
  const enter = (given: string, withPin: string) =>
    open.mutate({ token: given, pin: withPin }, { onSuccess: () => void navigate("/", { replace: true }) });
  const tried = useRef(false);
  useEffect(() => {
    if (!token || tried.current) return;
    tried.current = true;
    // The link lets in whoever has it: it stays neither in the address nor in what the browser remembers of it.
    history.replaceState(history.state, "", location.pathname);
    enter(token, "");
  });
  const asksPin = pin !== "" || isPinAsked(open.error);
  const isOpening = open.isPending && !asksPin;
  return (
    <Frame title={isOpening ? "Opening …" : asksPin ? "Your PIN" : "Come in"}>
      {isOpening ? null : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            enter(token, pin);
          }}
        >
          {asksPin ? (
            <Field
              label="The digits that your teacher gave you"
              value={pin}
              onChange={setPin}
              autoComplete="off"
              isNumber
            />
          ) : (
            <Field
              label="The words of your link"
              hint="Eight words, as your teacher gave them to you"
              value={token}
              onChange={setToken}
              autoComplete="off"
              isFirst
            />
          )}
          {open.error && !(isPinAsked(open.error) && pin === "") ? <Problem error={open.error} /> : null}
          <p className="mt-5">
            <Button type="submit" look="strong" className="min-h-12" disabled={open.isPending}>
              Come in
            </Button>
          </p>
        </form>
      )}
    </Frame>
  );
}
