import { PageLink } from "@/ui/basic/page-link";

export default function NotFound() {
  return (
    <div className="mx-auto max-w-3xl px-5 py-16">
      <h1>There is nothing here under that name.</h1>
      <p className="mt-2 text-faded">
        It may have been renamed or dropped. Press Ctrl+K to look for it by name, or go to{" "}
        <PageLink href="/">Today</PageLink>.
      </p>
    </div>
  );
}
