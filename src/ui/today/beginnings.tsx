import { Database, FileUp, Package } from "lucide-react";
import type { ReactNode } from "react";
import { PageLink } from "../basic/page-link";
import { WishDemo } from "./wish-demo";

/**
 * What an installation without pipelines begins with: files, a warehouse, or the demo; with tables there,
 * a pipeline.
 */
export function Beginnings({
  tables,
  ownWarehouse,
}: {
  /** Tables that there are already. */
  readonly tables: number;
  /** Whether the warehouse is the one that came with the installation. */
  readonly ownWarehouse: boolean;
}) {
  return (
    <section aria-label="Get started" className="border-y border-rule">
      {tables > 0 && (
        <p className="py-3">
          The warehouse has tables: write a{" "}
          <PageLink href="/pipelines/new" className="press press-main py-0.5">
            New pipeline
          </PageLink>{" "}
          on one of them, or save a file with <code>./ravlen save FILE</code>.
        </p>
      )}
      <ul className="grid grid-cols-3 gap-8 py-6">
        <Beginning
          icon={<FileUp size={18} aria-hidden />}
          title="Import files"
          action={
            <PageLink href="/tables/import" className={`press ${tables > 0 ? "" : "press-main"}`}>
              Import files
            </PageLink>
          }
        >
          Load CSV, Excel, Parquet, JSON Lines or SQL into warehouse tables.
        </Beginning>
        <Beginning
          icon={<Database size={18} aria-hidden />}
          title="Connect your warehouse"
          action={
            <PageLink href="/warehouse" className="press">
              Connect your warehouse
            </PageLink>
          }
        >
          Train and score in your own PostgreSQL. Rows stay there.
        </Beginning>
        <Beginning
          icon={<Package size={18} aria-hidden />}
          title="Open the demo"
          action={ownWarehouse ? <WishDemo /> : <code>RAVLEN_HOME=FOLDER ./ravlen demo --port 4390</code>}
        >
          Made-up parcel lockers: eight tables and five trained pipelines that deliver nightly.
        </Beginning>
      </ul>
    </section>
  );
}

function Beginning({
  icon,
  title,
  action,
  children,
}: {
  readonly icon: ReactNode;
  readonly title: string;
  readonly action: ReactNode;
  readonly children: ReactNode;
}) {
  return (
    <li className="flex flex-col gap-2">
      <h2 className="flex items-center gap-2">
        {icon}
        {title}
      </h2>
      <p className="flex-1 text-faded">{children}</p>
      <div>{action}</div>
    </li>
  );
}
