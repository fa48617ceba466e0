export default function Loading() {
  return <div role="status" className="mx-auto max-w-6xl px-5 py-10 text-faded">reading …</div>;
}
