import { NewPiece } from '@/ui/pieces/NewPiece';

export default function Page() {
  return <NewPiece />;
}
