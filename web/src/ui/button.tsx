import { Link } from "@tanstack/react-router";
import type { ButtonHTMLAttributes, ReactNode } from "react";

const KINDS = ["main", "plain", "danger"] as const;
type Kind = (typeof KINDS)[number];

const BASE =
  "inline-flex items-center justify-center gap-2 rounded-[3px] border px-4 font-semibold no-underline disabled:border-hair disabled:bg-paper disabled:text-soft";
const LOOK: Record<Kind, string> = {
  main: "border-water bg-water text-paper hover:bg-ink hover:border-ink",
  plain: "border-rule bg-sheet text-ink hover:border-ink",
  danger: "border-danger bg-danger text-paper hover:bg-ink hover:border-ink",
};
const SIZE = { normal: "min-h-9 py-1 text-sm", large: "min-h-14 px-6 text-lg", huge: "min-h-[60px] px-3 text-lg leading-tight" } as const;

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  kind?: Kind;
  size?: keyof typeof SIZE;
}

export function Button({ kind = "plain", size = "normal", type = "button", className = "", ...rest }: Props) {
  return <button type={type} data-kind={kind} className={`${BASE} ${LOOK[kind]} ${SIZE[size]} ${className}`} {...rest} />;
}

export function LinkButton({ to, params, kind = "plain", children }: { to: string; params?: Record<string, string>; kind?: Kind; children: ReactNode }) {
  return (
    <Link to={to as string} params={params as never} className={`${BASE} ${LOOK[kind]} ${SIZE.normal}`}>
      {children}
    </Link>
  );
}
