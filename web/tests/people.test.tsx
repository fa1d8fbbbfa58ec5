// @vitest-environment happy-dom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { deedWords, type Holder, type Noted } from "../src/people/api";
import { Door } from "../src/people/Door";
import { Mine } from "../src/people/Mine";
import { PeoplePage } from "../src/people/PeoplePage";
import { refusal, served, shown } from "./page";

const me = { id: 1, name: "Ume", role: "keeper" };
const holder = (id: number, name: string, change: Partial<Holder> = {}): Holder => ({
  id,
  name,
  role: "member",
  made_at: "2026-12-01T10:00:00",
  left_at: null,
  seen_at: null,
  ...change,
});
const noted = (deed: string, status = 200): Noted => ({
  id: 7,
  at: "2026-12-02T09:00:00",
  name: "Sora",
  address: "10.0.0.7",
  deed,
  status,
});

describe("the door", () => {
  it("lets everybody through where the bench is alone", async () => {
    served({ "GET /api/session": { open: false, me: null } });
    shown(<Door>the bench</Door>);
    expect(await screen.findByText("the bench")).toBeTruthy();
  });

  it("asks who comes, says why not, and opens", async () => {
    const state = { open: true, me: null as typeof me | null };
    const table: Record<string, unknown> = {
      "GET /api/session": state,
      "POST /api/session": refusal(401, "not-signed-in", "The name or the password is not right."),
    };
    const asked = served(table);
    shown(<Door>the bench</Door>);
    await userEvent.type(await screen.findByLabelText("Name"), "Ume");
    await userEvent.type(screen.getByLabelText("Password"), "reeds under a slow lantern");
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByRole("alert")).toBeTruthy();
    expect(screen.queryByText("the bench")).toBe(null);
    table["POST /api/session"] = { open: true, me };
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText("the bench")).toBeTruthy();
    expect(asked.at(-1)?.body).toEqual({ name: "Ume", password: "reeds under a slow lantern" });
  });

  it("reads an invitation and takes its token out of the address", async () => {
    served({
      "GET /api/session": { open: true, me: null },
      "POST /api/invitation/read": { role: "guest", name: null },
    });
    shown(<Door>the bench</Door>, "/invited#a-token-that-works-once");
    expect(await screen.findByRole("heading", { name: /You are invited/ })).toBeTruthy();
    expect(screen.getByText(/looks, sets timers/)).toBeTruthy();
    expect(location.hash).toBe("");
  });

  it("asks for a new password alone where the invitation is somebody's", async () => {
    served({
      "GET /api/session": { open: true, me: null },
      "POST /api/invitation/read": { role: "keeper", name: "Ume" },
    });
    shown(<Door>the bench</Door>, "/invited#a-token-that-works-once");
    expect(await screen.findByRole("heading", { name: "A new password for Ume" })).toBeTruthy();
    expect(screen.queryByLabelText(/name that others see/)).toBe(null);
  });
});

describe("people", () => {
  it("shows who has a key, gives roles, and tells an invitation once", async () => {
    const asked = served({
      "GET /api/session": { open: true, me },
      "GET /api/people": [
        holder(1, "Ume", { role: "keeper" }),
        holder(2, "Sora"),
        holder(3, "Kiri", { left_at: "2026-12-01T12:00:00" }),
      ],
      "GET /api/audit": [noted("PUT /api/runs/7/outcome")],
      "POST /api/invitations": { path: "/invited#once" },
      "DELETE /api/people/2": [],
    });
    shown(<PeoplePage />);
    expect(await screen.findByText(/Have left: Kiri/)).toBeTruthy();
    expect(await screen.findByText("changed runs 7 outcome")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "New password for Sora" }));
    expect((await screen.findByRole("status")).textContent).toContain("/invited#once");
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({ role: "member", person_id: 2 });
    await userEvent.click(screen.getByRole("button", { name: "Show out Sora" }));
    await waitFor(() => expect(asked.some((a) => a.path === "/api/people/2")).toBe(true));
  });

  it("shows one's name to who is signed in, and nothing to others", async () => {
    served({ "GET /api/session": { open: true, me } });
    shown(<Mine />);
    expect(await screen.findByRole("button", { name: /Ume/ })).toBeTruthy();
  });

  it("says deeds in words", () => {
    expect(deedWords(noted("POST /api/session"))).toBe("signed in");
    expect(deedWords(noted("POST /api/session", 401))).toBe("signed in, refused (401)");
    expect(deedWords(noted("DELETE /api/people/3"))).toBe("showed somebody out");
    expect(deedWords(noted("DELETE /api/figures/3", 204))).toBe("took away figures 3");
  });
});
