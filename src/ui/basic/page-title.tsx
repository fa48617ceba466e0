import type { ReactNode } from "react";

/** A page's title with a line beneath and actions at the right. */
export function PageTitle({
  title,
  children,
  actions,
}: {
  readonly title: ReactNode;
  readonly children?: ReactNode;
  readonly actions?: ReactNode;
}) {
  return (
    <div className="flex items-end justify-between gap-6 pb-4 pt-6">
      <div className="min-w-0">
        <h1 className="break-words">{title}</h1>
        {children && <div className="mt-1 text-faded">{children}</div>}
      </div>
      {actions && <div className="flex shrink-0 gap-2">{actions}</div>}
    </div>
  );
}
