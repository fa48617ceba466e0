import { whenWarehouseAnswers } from "@/app/when-warehouse-answers";
import { draftForPage } from "@/server/draft-page";
import { BraidDesk } from "@/ui/braid/braid-desk";

export default async function BraidPage({ params }: { readonly params: Promise<{ name: string }> }) {
  return whenWarehouseAnswers(async () => <BraidDesk {...await draftForPage((await params).name)} />);
}
