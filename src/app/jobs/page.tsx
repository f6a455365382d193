import type { Metadata } from 'next';
import { Jobs } from '@/ui/jobs/Jobs';

export const metadata: Metadata = { title: 'Bakes on this server' };

export default function Page() {
  return <Jobs />;
}
