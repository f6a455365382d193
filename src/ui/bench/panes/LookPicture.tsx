/** The panes as they were left, where they will be: shown until they are drawn. */
import type { LastLook } from '@/core/piece/look';

/** While the bench is not there yet: fills the window. */
export function LookPicture({ pieceId, look }: { pieceId: string; look: LastLook | null }) {
  if (!look) return null;
  const { left } = look;
  if (left)
    return (
      <div className="absolute overflow-hidden" style={left.insets}>
        <Panes pieceId={pieceId} at={look.at} />
      </div>
    );
  if (!look.hasThumbnail) return null;
  return (
    <div className="absolute top-10 right-0 left-[344px] h-[calc(100%-212px)]">
      <Thumbnail pieceId={pieceId} />
    </div>
  );
}

/** Of a piece that has never been left: where the model will be. */
export const Thumbnail = ({ pieceId }: { pieceId: string }) => (
  <img
    src={`/api/pieces/${pieceId}/thumbnail`}
    alt=""
    data-testid="thumbnail"
    {...{ elementtiming: 'look' }}
    className="pointer-events-none absolute top-0 left-0 h-full w-3/5 object-contain opacity-80"
  />
);

/** Over the panes. */
export const Panes = ({ pieceId, at }: { pieceId: string; at: number }) => (
  <img
    src={`/api/pieces/${pieceId}/look?at=${at}`}
    alt=""
    data-testid="look"
    {...{ elementtiming: 'look' }}
    className="pointer-events-none absolute inset-0 h-full w-full object-cover"
  />
);
