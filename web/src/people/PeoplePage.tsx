import { useEffect, useState } from "react";
import { api, need, problemOf } from "../api/client";
import { useDeed } from "../api/memory";
import { day, hour } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Pick } from "../ui/Pick";
import { deedWords, ROLES, useAudit, usePeople, useSession, type Holder, type Role } from "./api";

/** A keeper's page: who has a key, invitations, and what was done. */
export function PeoplePage() {
  const people = usePeople();
  useEffect(() => {
    document.title = "People · Tenugui";
  }, []);
  if (people.error) return <Trouble problem={problemOf(people.error)} />;
  const here = (people.data ?? []).filter((p) => !p.left_at);
  const left = (people.data ?? []).filter((p) => p.left_at);
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "People" }]} />
      <h1 className="text-[27px] leading-tight">Who has a key to this bench?</h1>
      <p className="mt-1 mb-4 max-w-[90ch] text-faded">
        {ROLES.map((r) => `A ${r.text}: ${r.may}.`).join(" ")}
      </p>
      <Keys people={here} />
      {left.length > 0 && (
        <p className="mt-2 text-[13.5px] text-faded">
          Have left: {left.map((p) => p.name).join(", ")}. What they did stays.
        </p>
      )}
      <Audit />
    </main>
  );
}

const moment = (at: string | null) => (at ? `${day(at)}, ${hour(at)}` : "not yet");

function Keys({ people }: { people: Holder[] }) {
  const me = useSession().data?.me;
  const [role, setRole] = useState<Role>("member");
  const [link, setLink] = useState<{ text: string; of: string } | null>(null);
  const give = useDeed("people", ({ id, role }: { id: number; role: Role }) =>
    need(
      api.POST("/api/people/{number}/role", { params: { path: { number: id } }, body: { role } }),
    ),
  );
  const out = useDeed("people", (id: number) =>
    need(api.DELETE("/api/people/{number}", { params: { path: { number: id } } })),
  );
  const invite = useDeed("people", async (of: Holder | null) => {
    const body = { role: of?.role ?? role, person_id: of?.id ?? null };
    const { path } = await need(api.POST("/api/invitations", { body }));
    const text = of ? `A new password for ${of.name}` : `One more ${role}`;
    setLink({ text: location.origin + path, of: text });
  });
  return (
    <section aria-label="Keys">
      <table className="text-[15px]">
        <thead className="text-left text-[13.5px] text-faded">
          <tr>
            <th className="pr-10 font-normal">Name</th>
            <th className="pr-10 font-normal">Role</th>
            <th className="pr-10 font-normal">Last here</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {people.map((p) => (
            <tr key={p.id} className="border-b border-thread">
              <td className="py-1.5 pr-10">
                {p.name}
                {p.id === me?.id && <span className="text-faded"> (you)</span>}
              </td>
              <td className="pr-10">
                <Pick
                  label={`Role of ${p.name}`}
                  value={p.role}
                  options={ROLES}
                  onValue={(to) => give.mutate({ id: p.id, role: to as Role })}
                  className="min-w-44"
                />
              </td>
              <td className="pr-10 text-faded">{moment(p.seen_at)}</td>
              <td className="space-x-5">
                <button
                  type="button"
                  className="text-indigo underline"
                  onClick={() => invite.mutate(p)}
                >
                  New password<span className="sr-only"> for {p.name}</span>
                </button>
                <button
                  type="button"
                  className="text-indigo underline"
                  onClick={() => out.mutate(p.id)}
                >
                  Show out<span className="sr-only"> {p.name}</span>
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-4 flex items-center gap-3">
        <Pick
          label="Role of who is invited"
          value={role}
          options={ROLES}
          onValue={(to) => setRole(to as Role)}
          className="min-w-44"
        />
        <button type="button" className="take" onClick={() => invite.mutate(null)}>
          Invite
        </button>
      </p>
      {link && (
        <p role="status" className="mt-3 max-w-[90ch] border-l-4 border-indigo pl-3">
          {link.of}: give them this address. It works once, within three days, and is not shown
          again.
          <br />
          <code className="select-all break-all">{link.text}</code>
        </p>
      )}
    </section>
  );
}

function Audit() {
  const [befores, setBefores] = useState<(number | undefined)[]>([undefined]);
  const audit = useAudit(befores.at(-1));
  const rows = audit.data ?? [];
  const last = rows.at(-1);
  return (
    <section aria-label="What was done" className="mt-8">
      <h2 className="text-[18px]">What was done</h2>
      <table className="mt-1 w-full max-w-[1100px] text-[14px]">
        <tbody>
          {rows.map((r) => (
            <tr key={r.id} className="border-b border-thread">
              <td className="w-44 py-1 text-faded">{moment(r.at)}</td>
              <td className="w-44">{r.name ?? "somebody unknown"}</td>
              <td title={r.deed}>{deedWords(r)}</td>
              <td className="text-faded">{r.address}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 flex gap-5 text-[13.5px]">
        {befores.length > 1 && (
          <button
            type="button"
            className="text-indigo underline"
            onClick={() => setBefores(befores.slice(0, -1))}
          >
            Later
          </button>
        )}
        {rows.length === 100 && last && (
          <button
            type="button"
            className="text-indigo underline"
            onClick={() => setBefores([...befores, last.id])}
          >
            Earlier
          </button>
        )}
      </p>
    </section>
  );
}
