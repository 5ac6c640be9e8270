import { createContext, type ReactNode, useContext } from "react";
import { setClock } from "./clock";
import { api, type Schema, sentence, setToken } from "./client";
import { setTyper } from "./typing";
import { setWords } from "./words";
import { setZone } from "./zone";

export type Me = Schema["Me"];

const Session = createContext<Me | null>(null);

export const MeProvider = Session.Provider;

/** Who is signed in; every view below has one. */
export function useMe(): Me {
  const me = useContext(Session);
  if (!me) throw new Error("used outside a session");
  return me;
}

/** True where nobody is signed in, and not where nobody could be asked. */
function isSignedOut(error: unknown): boolean {
  return Boolean(error && typeof error === "object" && "status" in error && error.status === 401);
}

function Unanswered({ why }: { why: string }) {
  return (
    <main className="mx-auto grid min-h-dvh max-w-[60ch] content-center gap-3 px-6" data-unanswered>
      <h1 className="m-0 text-xl font-bold">This page waits for the server.</h1>
      <p className="m-0">{why}</p>
      <p className="m-0 text-sm text-soft">It is asked again every two seconds; this page goes on by itself.</p>
    </main>
  );
}

export function SessionGate({ children, signIn }: { children: ReactNode; signIn: ReactNode }) {
  const session = api.useQuery(
    "get",
    "/api/v1/session",
    {},
    {
      retry: false,
      staleTime: Number.POSITIVE_INFINITY,
      // a server that cannot answer yet, or now, is asked again; nobody is told to sign in for it
      refetchInterval: (query) => (query.state.error && !isSignedOut(query.state.error) ? 2_000 : false),
    },
  );
  const words = api.useQuery(
    "get",
    "/api/v1/words",
    {},
    { enabled: Boolean(session.data), staleTime: Number.POSITIVE_INFINITY, refetchInterval: (query) => (query.state.error ? 2_000 : false) },
  );
  if (session.isPending) return null;
  if (!session.data) return isSignedOut(session.error) ? signIn : <Unanswered why={sentence(session.error)} />;
  if (!words.data) return words.error ? <Unanswered why={sentence(words.error)} /> : null;
  setWords(words.data);
  setToken(session.data.token);
  setTyper(session.data.sign_in);
  setClock(session.data.now, session.data.clock_rate);
  setZone(session.data.zone);
  return <Session.Provider value={session.data}>{children}</Session.Provider>;
}
