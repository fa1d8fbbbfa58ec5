import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, need } from "../api/client";
import { State, UNDER_WAY, useFollowed } from "../folds/log/OnMachine";
import { useView } from "../shell/view";
import type { Whole } from "./api";

/** A plate's own file on the simulated machine: all pieces at once, followed live. */
export function OnPlateMachine({ whole, k }: { whole: Whole; k: number }) {
  const client = useQueryClient();
  const { fail } = useView();
  const key = ["machine", "plate", whole.id, k];
  const path = { number: whole.id, k };
  const { data: on } = useFollowed(key, () =>
    need(api.GET("/api/plates/{number}/{k}/machine", { params: { path } })),
  );
  const start = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/plates/{number}/{k}/machine", { params: { path }, body: { speed: 600 } }),
      ),
    onSuccess: (state) => {
      client.setQueryData(key, state);
      void client.invalidateQueries({ queryKey: ["plate", whole.id] });
    },
    onError: fail,
  });
  const cancel = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/plates/{number}/{k}/machine/{turn}", {
          params: { path: { ...path, turn: "cancel" } },
        }),
      ),
    onSuccess: (state) => client.setQueryData(key, state),
    onError: fail,
  });
  const going = !!on && UNDER_WAY.includes(on.state);
  return (
    <div className="mt-2 flex flex-wrap items-center gap-3 text-[13.5px]">
      {!going && (
        <button
          type="button"
          className="quiet"
          disabled={start.isPending}
          onClick={() => start.mutate()}
        >
          {start.isPending ? "It reads the file" : "Print it on the simulated machine"}
        </button>
      )}
      {on && <State on={on} />}
      {going && (
        <button type="button" className="quiet" onClick={() => cancel.mutate()}>
          give it up
        </button>
      )}
    </div>
  );
}
