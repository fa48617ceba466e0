import { draftForPage } from "@/server/draft-page";
import { BriefDesk } from "@/ui/brief/brief-desk";

export default async function BriefPage({ params }: { readonly params: Promise<{ name: string }> }) {
  return <BriefDesk {...await draftForPage((await params).name)} />;
}
