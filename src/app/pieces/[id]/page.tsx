import { lastLookOf } from '@/server/look';
import { Bench } from '@/ui/bench/Bench';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  // Without it the piece opens as well: the bench says what is wrong.
  const look = await lastLookOf(id).catch(() => null);
  return <Bench pieceId={id} look={look} />;
}
