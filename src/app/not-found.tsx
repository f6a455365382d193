import Link from 'next/link';

export default function NotFound() {
  return (
    <main className="mx-auto max-w-[520px] space-y-3 p-10">
      <h1 className="text-[17px] font-semibold">There is nothing at this address</h1>
      <p>It may have been typed wrongly, or what stood here has moved.</p>
      <Link
        href="/"
        className="inline-flex h-8 items-center rounded border border-line bg-raised px-3 font-medium hover:bg-field"
      >
        To the pieces
      </Link>
    </main>
  );
}
