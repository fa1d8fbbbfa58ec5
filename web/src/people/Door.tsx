import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode, type SyntheticEvent } from "react";
import { api, need, problemOf, type Problem, type Schemas } from "../api/client";
import { Trouble } from "../shell/Trouble";
import { ROLES, useSession } from "./api";

type Session = Schemas["SessionState"];

/** What lies behind it is for those who are known, on a bench that asks. */
export function Door({ children }: { children: ReactNode }) {
  const session = useSession();
  const [token] = useState(() => (location.pathname === "/invited" ? location.hash.slice(1) : ""));
  if (session.error && !problemOf(session.error).isAway)
    return <Trouble problem={problemOf(session.error)} />;
  if (!session.data) return <p className="p-10 text-faded">Knocking</p>;
  if (session.data.open && token) return <Invited token={token} />;
  return session.data.open && !session.data.me ? <SignIn /> : children;
}

/** A form that ends with a session. */
function Letting({
  title,
  lead,
  deed,
  send,
  children,
}: {
  title: string;
  lead: string;
  deed: string;
  send: () => Promise<Session>;
  children: ReactNode;
}) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    document.title = `${title} · Tenugui`;
  }, [title]);
  const submit = async (e: SyntheticEvent) => {
    e.preventDefault();
    setBusy(true);
    setProblem(null);
    try {
      const now = await send();
      if (location.pathname === "/invited") location.replace("/");
      else {
        client.removeQueries({ predicate: (q) => q.queryKey[0] !== "session" });
        client.setQueryData(["session"], now);
      }
    } catch (thrown) {
      setProblem(problemOf(thrown));
    }
    setBusy(false);
  };
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-10 max-[1100px]:px-5">
      <form
        aria-label={title}
        className="max-w-[46ch] space-y-4"
        onSubmit={(e) => {
          void submit(e);
        }}
      >
        <h1 className="text-[27px] leading-tight">{title}</h1>
        <p className="text-faded">{lead}</p>
        {children}
        {problem && (
          <p role="alert" className="border-l-4 border-persimmon pl-3">
            {problem.message} {problem.remedy}
          </p>
        )}
        <button className="take" disabled={busy}>
          {deed}
        </button>
      </form>
    </main>
  );
}

function Field({
  label,
  value,
  onValue,
  secret,
}: {
  label: string;
  value: string;
  onValue: (value: string) => void;
  secret?: "current-password" | "new-password";
}) {
  return (
    <label className="block">
      <span className="block text-[13.5px] text-faded">{label}</span>
      <input
        className="field w-full"
        type={secret ? "password" : "text"}
        autoComplete={secret ?? "username"}
        required
        value={value}
        onChange={(e) => onValue(e.target.value)}
      />
    </label>
  );
}

function SignIn() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  return (
    <Letting
      title="Who is at the bench?"
      lead="This bench is open to the house: what is done here is noted with your name."
      deed="Sign in"
      send={() => need(api.POST("/api/session", { body: { name, password } }))}
    >
      <Field label="Name" value={name} onValue={setName} />
      <Field label="Password" value={password} onValue={setPassword} secret="current-password" />
    </Letting>
  );
}

function Invited({ token }: { token: string }) {
  const [asked, setAsked] = useState<Schemas["Invited"] | Problem | null>(null);
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  useEffect(() => {
    // The token is out of the address at once: nobody reads it over a shoulder, nor in the history.
    history.replaceState(null, "", "/invited");
    need(api.POST("/api/invitation/read", { body: { token } })).then(setAsked, (thrown) =>
      setAsked(problemOf(thrown)),
    );
  }, [token]);
  if (!asked) return <p className="p-10 text-faded">Reading the invitation</p>;
  if (asked instanceof Error) return <Trouble problem={asked} />;
  const known = asked.name;
  const may = ROLES.find((r) => r.value === asked.role);
  return (
    <Letting
      title={known ? `A new password for ${known}` : "You are invited to this bench"}
      lead={
        known
          ? "Whoever is signed in with the old one is signed out."
          : `As ${may?.text ?? asked.role}: ${may?.may ?? ""}. This address works once.`
      }
      deed={known ? "Take this password" : "Come in"}
      send={() =>
        need(api.POST("/api/invitation", { body: { token, name: known ?? name, password } }))
      }
    >
      {!known && <Field label="The name that others see" value={name} onValue={setName} />}
      <Field
        label="A password, 12 letters or more; several words are good"
        value={password}
        onValue={setPassword}
        secret="new-password"
      />
    </Letting>
  );
}
