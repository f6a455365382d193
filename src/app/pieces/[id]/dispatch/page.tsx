import { Dispatch } from '@/ui/dispatch/Dispatch';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <Dispatch pieceId={(await params).id} />;
}
