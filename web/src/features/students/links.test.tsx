import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { draw, serve } from "../../testing/draw";
import { Links } from "./Links";
import { WhoLeft } from "./WhoLeft";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const LINKS = "/api/students/3/links";
const link = {
  id: 5,
  role: "student",
  held_by: "",
  has_agreed: false,
  has_pin: true,
  created_at: "2026-11-01T10:00:00Z",
  opened_at: null,
};
const made = { token: "bafiku-deromi", address: "https://10.0.0.9:8443/come#bafiku-deromi", picture: "<svg/>" };
const reach = { addresses: [{ address: "https://10.0.0.9:8443", picture: "" }], install: null, fingerprint: null };

const NONE_AGREED = { items: [], stored_bytes: 0 };
const agreed = { id: 1, student_id: 3, student: "Aila", given_by: "her mother", purpose: "", given_on: "2026-11-01" };

describe("personal links", () => {
  it("are made for an address that a phone reaches, with a PIN where one is given, and shown once", async () => {
    const { asked } = serve({
      [`GET ${LINKS}`]: [link],
      "GET /api/addresses": reach,
      "GET /api/consents": NONE_AGREED,
      [`POST ${LINKS}`]: made,
    });
    draw(<Links student={3} name="Aila" />);
    expect(await screen.findByText(/not opened yet, with a PIN/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Make a link" })).toBeTruthy(); // a parent's
    fireEvent.change(screen.getByPlaceholderText("none"), { target: { value: "25a80" } });
    await waitFor(() => expect(asked).toContain("GET /api/addresses"));
    fireEvent.click(screen.getByRole("button", { name: "A new link" }));
    expect(await screen.findByText(made.address)).toBeTruthy();
    expect(asked).toContain(
      `POST ${LINKS} {"role":"student","held_by":"","origin":"https://10.0.0.9:8443","pin":"2580"}`,
    );
    expect(screen.getByText(/The PIN is 2580/)).toBeTruthy();
    expect(screen.getByText("bafiku deromi")).toBeTruthy();
  });

  it("are for as many parents as there are, called as the consents call them, and taken back one by one", async () => {
    const fathers = { ...link, id: 6, role: "parent", held_by: "her father", has_pin: false };
    const mothers = { ...fathers, id: 7, held_by: "Her Mother", has_agreed: true };
    const { asked } = serve({
      [`GET ${LINKS}`]: [link, fathers, mothers],
      "GET /api/addresses": reach,
      "GET /api/consents": {
        items: [agreed, { ...agreed, id: 2, student_id: 4, given_by: "somebody" }],
        stored_bytes: 0,
      },
      [`POST ${LINKS}`]: made,
      [`DELETE ${LINKS}/6`]: null,
    });
    draw(<Links student={3} name="Aila" />);
    expect((await screen.findByText("For her father")).closest("li")?.textContent).toContain("hears no kept sound");
    expect(screen.getAllByText(/hears no kept sound/)).toHaveLength(1); // neither the student nor who agreed
    await waitFor(() => expect(document.querySelectorAll("datalist option")).toHaveLength(1));
    expect(document.querySelector("datalist option")?.getAttribute("value")).toBe("her mother");
    fireEvent.change(screen.getByLabelText("For a parent"), { target: { value: " her mother " } });
    fireEvent.click(screen.getByRole("button", { name: "Make a link" }));
    expect(await screen.findByText("For her mother")).toBeTruthy();
    expect(asked).toContain(`POST ${LINKS} {"role":"parent","held_by":"her mother","origin":"https://10.0.0.9:8443"}`);
    fireEvent.click(screen.getAllByRole("button", { name: "Take it back" })[1] as HTMLElement);
    await waitFor(() => expect(asked).toContain(`DELETE ${LINKS}/6`));
  });

  it("say that they are of no use to a phone where the server has no other address", async () => {
    const here = { ...made, address: "http://localhost:3000/come#bafiku-deromi" };
    serve({
      [`GET ${LINKS}`]: [],
      "GET /api/consents": NONE_AGREED,
      "GET /api/addresses": { addresses: [], install: null, fingerprint: null },
      [`POST ${LINKS}`]: here,
    });
    draw(<Links student={3} name="Aila" />);
    fireEvent.click((await screen.findAllByRole("button", { name: "Make a link" }))[0] as HTMLElement);
    expect(await screen.findByText(/a phone cannot reach it/)).toBeTruthy();
  });
});

describe("who left", () => {
  it("is erased only after it was said what that means", async () => {
    const { asked } = serve({
      "GET /api/who-left": [{ id: 8, name: "Bo", left_at: "2026-11-01T10:00:00Z" }],
      "POST /api/students/8/erase": null,
    });
    draw(<WhoLeft />);
    fireEvent.click(await screen.findByText("1 student left the studio"));
    fireEvent.click(screen.getByRole("button", { name: "Erase …" }));
    expect(await screen.findByText(/deleted at once and for good/)).toBeTruthy();
    expect(asked.some((one) => one.startsWith("POST"))).toBe(false);
    fireEvent.click(screen.getByRole("button", { name: "Erase for good" }));
    await waitFor(() => expect(asked).toContain("POST /api/students/8/erase"));
  });
});
