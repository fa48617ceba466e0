import type { Metadata } from "next";
import type { ReactNode } from "react";
import { pageOf, stagesOf } from "@/server/stages";
import { Stages } from "@/ui/frame/stages";
import { PageLink } from "@/ui/basic/page-link";

interface Props {
  readonly children: ReactNode;
  readonly params: Promise<{ name: string }>;
}

export async function generateMetadata({ params }: Pick<Props, "params">): Promise<Metadata> {
  return { title: decodeURIComponent((await params).name) };
}

export default async function PipelineLayout({ children, params }: Props) {
  const { name } = await params;
  const [{ pipeline, version }, stages] = await Promise.all([pageOf(name), stagesOf(name)]);
  return (
    <>
      <div className="border-b border-rule">
        <div className="flex items-end justify-between gap-8 px-5 pt-3">
          <div className="min-w-0 pb-2">
            <p className="text-caption text-faded">
              <PageLink href="/pipelines">Pipelines</PageLink> · version {version.number}
            </p>
            <h1 className="truncate text-title" title={pipeline.description ?? undefined}>
              {pipeline.name}
            </h1>
          </div>
          <Stages pipeline={pipeline.name} stages={stages} />
        </div>
      </div>
      {children}
    </>
  );
}
