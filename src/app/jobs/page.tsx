import type { Metadata } from 'next';
import { Jobs } from '@/ui/jobs/Jobs';

export const metadata: Metadata = { title: 'Bakes of this house' };

export default function Page() {
  return <Jobs />;
}
