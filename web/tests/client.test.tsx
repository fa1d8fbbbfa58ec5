// @vitest-environment happy-dom
import { act, renderHook, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import {
  asProblem,
  AWAY,
  need,
  Problem,
  problemOf,
  refusalOf,
  type Computation,
} from "../src/api/client";
import { useComputation, usePlanChange } from "../src/api/queries";
import { Boundary, Trouble } from "../src/shell/Trouble";
import { useView } from "../src/shell/view";
import { Toasts } from "../src/ui/Toasts";
import { plan, shown } from "./page";

describe("what went wrong", () => {
  it("is told in the server's words", () => {
    const p = asProblem({
      code: "no-plan",
      title: "There is no plan 9.",
      detail: "Go back.",
      where: "plan",
    });
    expect([p.code, p.message, p.remedy, p.where]).toEqual([
      "no-plan",
      "There is no plan 9.",
      "Go back.",
      "plan",
    ]);
    expect(p.of("toad.stl").message).toBe("toad.stl: There is no plan 9.");
  });

  it.each([null, "<html>", 7, {}, { title: 3 }])(
    "is that nobody answers where the answer is %j",
    (body) => {
      expect(asProblem(body)).toBe(AWAY);
    },
  );

  it("is a fault of the page where it was thrown there", () => {
    expect(problemOf(new TypeError("x is undefined")).message).toBe(
      "The page stumbled: x is undefined.",
    );
    expect(problemOf(AWAY)).toBe(AWAY);
    expect(AWAY.isAway && new Problem("database-away", "", "").isAway).toBe(true);
    expect(refusalOf({ code: "c", what: "w", where: "", remedy: "r" }).remedy).toBe("r");
  });

  it("is thrown by what needs an answer", async () => {
    const answer = (status: number, rest: object) =>
      Promise.resolve({ response: new Response(null, { status }), ...rest });
    await expect(need(answer(200, { data: 4 }))).resolves.toBe(4);
    await expect(need(answer(422, { error: { code: "c", title: "No." } }))).rejects.toThrow("No.");
    await expect(need(Promise.reject(new Error("network")))).rejects.toBe(AWAY);
  });

  it("leaves a way on", async () => {
    const again = vi.fn();
    shown(<Trouble problem={new Problem("c", "It broke.", "Mend it.")} again={again} />);
    await userEvent.click(screen.getByRole("button", { name: "Load it again" }));
    expect(again).toHaveBeenCalledOnce();
    expect(screen.getByRole("link", { name: "To the bench" })).toHaveAttribute("href", "/");
  });

  it("of one page does not take the others with it", () => {
    const quiet = vi.spyOn(console, "error").mockImplementation(() => undefined);
    function Breaks(): ReactNode {
      throw new Error("no such mesh");
    }
    shown(
      <Boundary>
        <Breaks />
      </Boundary>,
    );
    expect(screen.getByRole("alert").textContent).toContain("no such mesh");
    quiet.mockRestore();
  });
});

describe("messages", () => {
  beforeEach(() => useView.setState({ toasts: [] }));

  it("are at most four, the newest kept", () => {
    for (const n of [1, 2, 3, 4, 5, 6]) useView.getState().say({ text: `word ${n}` });
    expect(useView.getState().toasts.map((t) => t.text)).toEqual([
      "word 3",
      "word 4",
      "word 5",
      "word 6",
    ]);
  });

  it("offer a way back, and can be closed", async () => {
    const run = vi.fn();
    shown(<Toasts />);
    act(() =>
      useView.getState().say({ text: "Toad is put away.", action: { label: "Put it back", run } }),
    );
    await userEvent.click(screen.getByRole("button", { name: "Put it back" }));
    expect(run).toHaveBeenCalledOnce();
    await waitFor(() => expect(useView.getState().toasts).toEqual([]));
    act(() => useView.getState().fail(new Problem("c", "No.", "Do that.", "line 3")));
    expect(screen.getByText("No. (line 3)")).toBeDefined();
    await userEvent.click(screen.getByRole("button", { name: "Close" }));
    await waitFor(() => expect(useView.getState().toasts).toEqual([]));
  });
});

const within = ({ children }: { children: ReactNode }) => (
  <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
    {children}
  </QueryClientProvider>
);

class Events {
  static all: Events[] = [];
  heard = new Map<string, (e: MessageEvent<string>) => void>();
  closed = false;
  constructor(readonly url: string) {
    Events.all.push(this);
  }
  addEventListener = (name: string, hear: (e: MessageEvent<string>) => void) =>
    this.heard.set(name, hear);
  close = () => (this.closed = true);
  tell = (state: object) =>
    this.heard.get("job")?.({ data: JSON.stringify(state) } as MessageEvent<string>);
}

describe("a computation", () => {
  beforeEach(() => {
    Events.all = [];
    vi.stubGlobal("EventSource", Events);
  });
  const asked = (answers: Computation<string>[]) => {
    const look = vi.fn(() => Promise.resolve(answers.shift() ?? { key: "k", document: "late" }));
    const start = vi.fn(() => Promise.resolve<Computation<string>>({ key: "k", job_id: 4 }));
    return { look, start };
  };

  it("is started where nobody has asked, followed, and fetched when its job ends", async () => {
    const ask = asked([
      { key: "k" },
      { key: "k", job_id: 4, draft: "two rows" },
      { key: "k", document: "the board" },
    ]);
    const { result } = renderHook(() => useComputation(["pose"], ask), { wrapper: within });
    await waitFor(() => expect(Events.all.at(-1)?.url).toBe("/api/jobs/4/events"));
    expect(ask.start).toHaveBeenCalledOnce();
    act(() => Events.all.at(-1)?.tell({ id: 4, state: "running", share: 0.5, doing: "weighing" }));
    expect(result.current.job?.doing).toBe("weighing");
    await waitFor(() => expect(result.current.old).toBe("two rows"));
    expect([result.current.waiting, result.current.draft]).toEqual([true, true]);
    act(() => Events.all.at(-1)?.tell({ id: 4, state: "done", share: 1, doing: "" }));
    await waitFor(() => expect(result.current.document).toBe("the board"));
    expect(result.current.waiting).toBe(false);
    expect(ask.start).toHaveBeenCalledOnce();
  });

  it("that failed is shown and not started by looking", async () => {
    const ask = asked([
      { key: "k", problem: { code: "c", what: "Too large.", where: "", remedy: "" } },
    ]);
    const { result } = renderHook(() => useComputation(["pose"], ask), { wrapper: within });
    await waitFor(() => expect(result.current.problem?.message).toBe("Too large."));
    expect(ask.start).not.toHaveBeenCalled();
    act(() => result.current.again());
    await waitFor(() => expect(ask.start).toHaveBeenCalledOnce());
  });

  it("keeps the last document while another is on its way", async () => {
    const ask = asked([
      { key: "k", document: "before" },
      { key: "k2", job_id: 9 },
    ]);
    const held = renderHook((name: string) => useComputation([name], ask), {
      wrapper: within,
      initialProps: "one",
    });
    await waitFor(() => expect(held.result.current.document).toBe("before"));
    held.rerender("two");
    await waitFor(() => expect(held.result.current.waiting).toBe(true));
    expect(held.result.current.old).toBe("before");
    expect(held.result.current.document).toBeNull();
  });

  it("is not asked for while it is not wanted", () => {
    const ask = asked([]);
    const { result } = renderHook(() => useComputation(["pose"], ask, false), { wrapper: within });
    expect(ask.look).not.toHaveBeenCalled();
    expect(result.current.waiting).toBe(false);
  });
});

describe("a change of a plan", () => {
  const changed = async (answer: () => Promise<ReturnType<typeof plan>>) => {
    const client = new QueryClient();
    const stale = vi.spyOn(client, "invalidateQueries");
    const { result } = renderHook(() => usePlanChange(7, answer), {
      wrapper: ({ children }) => (
        <QueryClientProvider client={client}>{children}</QueryClientProvider>
      ),
    });
    act(() => result.current.mutate(undefined as never));
    await waitFor(() => expect(result.current.isPending).toBe(false));
    await waitFor(() => expect(result.current.status).not.toBe("idle"));
    return { client, stale };
  };

  it("becomes the plan that the page shows", async () => {
    const { client } = await changed(() => Promise.resolve(plan({ head: 12 })));
    expect(client.getQueryData<ReturnType<typeof plan>>(["plan", 7])?.head).toBe(12);
  });

  it("that came too late has the page look again", async () => {
    const { stale } = await changed(() =>
      Promise.reject(new Problem("changed-meanwhile", "Another did.", "")),
    );
    expect(stale).toHaveBeenCalledWith({ queryKey: ["plan", 7] });
  });

  it("that was refused for another reason does not", async () => {
    const { stale } = await changed(() => Promise.reject(new Problem("bad-rates", "No.", "")));
    expect(stale).not.toHaveBeenCalled();
  });
});
