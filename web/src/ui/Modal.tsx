import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

interface Props {
  title: string;
  onClose: () => void;
  wide?: boolean;
  children: ReactNode;
}

/** A dialog over the page; Escape closes it and focus goes back to where it was. */
export function Modal({ title, onClose, wide = false, children }: Props) {
  return (
    <Dialog open onClose={onClose} className="relative z-30">
      <div className="fixed inset-0 bg-veil" aria-hidden="true" />
      <div className="fixed inset-0 flex items-start justify-center overflow-auto p-6 pt-[12vh]">
        <DialogPanel
          className={`w-full ${wide ? "max-w-3xl" : "max-w-lg"} rounded-[4px] border border-line-strong bg-sheet p-5 shadow-[var(--shadow)]`}
        >
          <DialogTitle className="mb-3 text-lg font-semibold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
