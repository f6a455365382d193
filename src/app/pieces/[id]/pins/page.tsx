import { PinWindow } from '@/ui/bench/pins/PinWindow';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <PinWindow pieceId={(await params).id} />;
}
