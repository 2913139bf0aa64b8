import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Me } from "../../api/me";
import { Refusal, draw, serve } from "../../testing/draw";
import { Door } from "./Door";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  history.replaceState(null, "", "/");
});

const nobody: Me = { role: "nobody", name: "", student_id: null, is_demo: false, is_set_up: true, has_demo: false };
const student: Me = { ...nobody, role: "student", name: "Aila", student_id: 3 };
const type = (label: RegExp, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });

describe("the door", () => {
  it("asks for a second factor once the password was right, and sends it along", async () => {
    const { asked } = serve({
      "POST /api/sign-in": new Refusal(403, { code: "refused", what: "asked for", where: "code" }),
    });
    draw(<Door me={nobody} />);
    type(/Your name/, "Ada");
    type(/Password/, "four small stones");
    fireEvent.click(screen.getByRole("button", { name: "Sign in" }));
    await screen.findByLabelText(/six digits/);
    expect(screen.queryByRole("alert")).toBeNull(); // that it is asked for is no mistake
    type(/six digits/, "123456");
    fireEvent.click(screen.getByRole("button", { name: "Sign in" }));
    await waitFor(() => expect(asked).toHaveLength(2));
    expect(asked[1]).toContain('"code":"123456"');
  });

  it("offers the demo first, and one's own beside it", () => {
    serve({});
    draw(<Door me={{ ...nobody, is_set_up: false, has_demo: true }} />);
    expect(screen.getByRole("button", { name: "Open the demo" })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: /set up a studio/ }));
    expect(screen.getByRole("heading", { name: "Set up your studio" })).toBeTruthy();
  });

  it("opens a link by what follows the #, which stays nowhere, and asks for a PIN where there is one", async () => {
    history.replaceState(null, "", "/come#bafiku-deromi");
    const { asked } = serve({
      "POST /api/links/open": new Refusal(403, { code: "refused", what: "asked for", where: "pin" }),
    });
    draw(<Door me={nobody} />, { at: "/come" });
    await screen.findByLabelText(/digits that your teacher gave you/);
    expect(location.hash).toBe("");
    expect(asked).toEqual(['POST /api/links/open {"token":"bafiku-deromi","pin":""}']);
    serve({ "POST /api/links/open": student });
    type(/digits/, "2580");
    fireEvent.click(screen.getByRole("button", { name: "Come in" }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });
});
