import { whenWarehouseAnswers } from "@/app/when-warehouse-answers";
import { draftForPage } from "@/server/draft-page";
import { BriefDesk } from "@/ui/brief/brief-desk";

export default async function BriefPage({ params }: { readonly params: Promise<{ name: string }> }) {
  return whenWarehouseAnswers(async () => <BriefDesk {...await draftForPage((await params).name)} />);
}
