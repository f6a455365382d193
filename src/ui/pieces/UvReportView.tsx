'use client';
import { Check, CircleAlert, OctagonX } from 'lucide-react';
import type { ComponentType } from 'react';
import type { UvReport } from '@/core/mesh/uvReport';

/** The UVs of each material, and what is wrong with them, in words. */
export function UvReportView({
  report,
  wires,
  Preview,
}: {
  report: UvReport;
  wires: Float32Array[];
  Preview: ComponentType<{ wire: Float32Array }>;
}) {
  return (
    <section aria-label="UV report">
      {report.sheets.length > 0 && (
        <div className="mb-3 grid grid-cols-2 gap-3">
          {report.sheets.slice(0, 4).map((sheet, m) => (
            <figure key={sheet.material} className="overflow-hidden rounded border border-line">
              <Preview wire={wires[m]} />
              <figcaption className="bg-raised px-2 py-1.5">
                <span className="block truncate font-medium">{sheet.material}</span>
                <span className="figures text-ink-soft">
                  {sheet.islands} {sheet.islands === 1 ? 'island' : 'islands'} · {Math.round(sheet.coverage * 100)} % used
                </span>
              </figcaption>
            </figure>
          ))}
        </div>
      )}
      {report.sheets.length > 4 && <p className="mb-2 text-ink-soft">and {report.sheets.length - 4} more sheets</p>}
      <ul className="space-y-1.5" data-testid="uv-problems">
        {report.problems.length === 0 && (
          <li className="flex items-start gap-2">
            <Check size={16} className="mt-px shrink-0 text-kept" /> The UVs are sound: nothing overlaps, nothing lies outside,
            the gutters are wide enough.
          </li>
        )}
        {report.problems.map((p, i) => (
          <li key={i} data-code={p.code} className="flex items-start gap-2">
            {p.weight === 'stop' ? (
              <OctagonX size={16} className="mt-px shrink-0 text-fault" />
            ) : (
              <CircleAlert size={16} className="mt-px shrink-0 text-accent-ink" />
            )}
            <span>{p.sentence}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
