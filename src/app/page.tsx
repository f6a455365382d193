import { Pieces } from '@/ui/pieces/Pieces';

export default function Page() {
  return <Pieces />;
}
