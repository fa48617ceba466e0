import { redirect } from "next/navigation";

export default async function PipelinePage({ params }: { readonly params: Promise<{ name: string }> }) {
  redirect(`/pipelines/${(await params).name}/braid`);
}
