import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { demoState } from "@/store/settings";
import { PageTitle } from "@/ui/basic/page-title";
import { ConnectionForm } from "@/ui/warehouse/connection-form";

export const metadata: Metadata = { title: "Warehouse" };

/** Which warehouse is used, and the way to another one. */
export default async function WarehousePage() {
  const { store, warehouse } = await appContext();
  const { reader, writer } = warehouse.config;
  const isDemo = (await demoState(store.db)) !== undefined;
  return (
    <div className="page pb-16">
      <PageTitle title="Connect your warehouse">
        Now connected: {reader.database} at {reader.host}:{reader.port}, read as {reader.user}, written as{" "}
        {writer.user}.
      </PageTitle>
      {isDemo ? (
        <p className="max-w-2xl">
          This is the demo, which has a clock of its own. For your own tables, start a separate installation:{" "}
          <code>RAVLEN_HOME=FOLDER ./ravlen start</code>and open this page there.
        </p>
      ) : (
        <ConnectionForm />
      )}
    </div>
  );
}
