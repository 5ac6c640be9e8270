import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  description?: string;
  wide?: boolean;
  children: ReactNode;
}

export function Dialog({ open, onOpenChange, title, description, wide, children }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/40" />
        <Radix.Content
          className={`fixed top-1/2 left-1/2 z-50 max-h-[90vh] w-[92vw] -translate-x-1/2 -translate-y-1/2 overflow-auto border border-rule bg-sheet p-6 ${wide ? "max-w-4xl" : "max-w-xl"}`}
        >
          <Radix.Title className="m-0 text-lg font-bold">{title}</Radix.Title>
          <Radix.Description className={description ? "mt-1 mb-0 text-sm text-soft" : "sr-only"}>{description ?? title}</Radix.Description>
          <div className="mt-4">{children}</div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
