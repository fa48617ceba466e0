"use client";
import { Skeleton } from "../basic/skeleton";
import { Fold } from "../basic/fold";
import type { PublishedFunction } from "@/runs/published";
import { CopyButton } from "../basic/copy-button";
import { useRead } from "../queries/use-read";

const OF_A_VERSION = /_v\d+(_rows)?$/;

/** The functions of the warehouse by which the version in service is asked: what they take and give, and a call with the values of a row. */
export function FunctionList({ pipeline }: { readonly pipeline: string }) {
  const { value, failure, asking } = useRead<readonly PublishedFunction[]>(
    `/api/pipelines/${encodeURIComponent(pipeline)}/functions`,
  );
  const following = (value ?? []).filter(({ name }) => !OF_A_VERSION.test(name));
  const ofVersions = (value ?? []).filter(({ name }) => OF_A_VERSION.test(name));
  return (
    <section aria-label="Functions" className="mt-4 max-w-4xl">
      <h3 className="font-medium">Functions</h3>
      {asking && <Skeleton label="reading functions …" lines={3} columns={1} className="text-caption" />}
      {failure && (
        <p role="alert" className="text-caption text-madder">
          {failure}
        </p>
      )}
      {value?.length === 0 && (
        <p className="text-caption text-faded">
          None yet: they are created when a version is put in service.
        </p>
      )}
      {following.map((found) => (
        <FunctionEntry key={found.name} found={found} />
      ))}
      {ofVersions.length > 0 && (
        <Fold className="mt-2 text-caption" summary={`For one fixed version: ${ofVersions.length}`}>
          {ofVersions.map((found) => (
            <FunctionEntry key={found.name} found={found} />
          ))}
        </Fold>
      )}
    </section>
  );
}

function FunctionEntry({ found }: { readonly found: PublishedFunction }) {
  const { schema, name, parameters, returns, comment, example } = found;
  const taken = parameters.map((parameter) => `${parameter.name} ${parameter.type}`).join(", ");
  return (
    <div className="mt-3 border-t border-weft pt-2" data-function={name}>
      <p className="figure break-words text-caption">
        <strong>
          {schema}.{name}
        </strong>
        ({taken}) → {returns}
      </p>
      <p className="text-caption text-faded">{comment}</p>
      <div className="mt-1 flex items-start gap-3 bg-paper px-3 py-2">
        <pre className="min-w-0 flex-1 overflow-x-auto text-caption">{example}</pre>
        <CopyButton text={example} what={`Example call of ${name}`} />
      </div>
    </div>
  );
}
