import { createContext, type ReactNode, useContext } from "react";
import { setClock } from "./clock";
import { api, type Schema, setToken } from "./client";

export type Me = Schema["Me"];

const Session = createContext<Me | null>(null);

/** Who is signed in; every view below has one. */
export function useMe(): Me {
  const me = useContext(Session);
  if (!me) throw new Error("used outside a session");
  return me;
}

export function SessionGate({ children, signIn }: { children: ReactNode; signIn: ReactNode }) {
  const session = api.useQuery("get", "/api/v1/session", {}, { retry: false, staleTime: Number.POSITIVE_INFINITY });
  if (session.isPending) return null;
  if (!session.data) return signIn;
  setToken(session.data.token);
  setClock(session.data.now, session.data.clock_rate);
  return <Session.Provider value={session.data}>{children}</Session.Provider>;
}
