import { PageLink } from "@/ui/basic/page-link";

export default function NotFound() {
  return (
    <div className="page py-16">
      <h1>Not found</h1>
      <p className="mt-2 text-faded">
        It may have been renamed or deleted. Press Ctrl+K to search, or go to{" "}
        <PageLink href="/">Today</PageLink>.
      </p>
    </div>
  );
}
