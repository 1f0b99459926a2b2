import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

/** A dialog over the table. Escape closes it. */
export function Sheet({
  open,
  onClose,
  title,
  children,
  wide = false,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-[8vh] left-1/2 z-50 flex max-h-[84vh] w-[calc(100vw-2rem)] -translate-x-1/2 flex-col border border-edge bg-paper shadow-lg ${wide ? "max-w-3xl" : "max-w-xl"}`}
        >
          <div className="flex items-center border-b border-rule px-4 py-2">
            <Dialog.Title className="text-[16px]">{title}</Dialog.Title>
            <Dialog.Close className="btn ml-auto border-transparent px-2" aria-label="Close">
              <X aria-hidden size={16} />
            </Dialog.Close>
          </div>
          <div className="min-h-0 overflow-auto p-4">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
