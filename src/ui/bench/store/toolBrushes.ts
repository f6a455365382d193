/** Each tool has a brush of its own: the one that it had last, or one that suits it. */
import { brushSchema } from '@/core/hand/brush';
import { SHIPPED } from '@/core/hand/rack/shipped';
import { TOOLS, TOOL_TYPES, type ToolType } from '@/core/hand/tools';
import type { HandTool } from '../tools';
import { set, type BenchState, type OwnBrush, type ToolBrushes } from './state';

type InHand = Pick<BenchState, 'tool' | 'brush' | 'brushId' | 'brushTool' | 'toolBrushes'>;

/** What changes in the hand when it takes a tool. Picking has no brush: the one in hand stays. */
export function withTool(hand: InHand, tool: HandTool): Partial<InHand> {
  const { brush, brushId, brushTool, toolBrushes } = hand;
  if (tool === 'pick' || tool === brushTool) return { tool };
  return {
    tool,
    brushTool: tool,
    toolBrushes: { ...toolBrushes, [brushTool]: { brush, brushId } },
    ...(toolBrushes[tool] ?? firstBrush(tool, { brush, brushId })),
  };
}

export const takeTool = (tool: HandTool): void => set((s) => withTool(s, tool));

/** In the size that is in hand. One of whole texels suits all tools on a sheet that is painted with it. */
function firstBrush(tool: ToolType, inHand: OwnBrush): OwnBrush {
  const suits = SHIPPED.find(({ name }) => name === TOOLS[tool].suitedBrush);
  if (!suits || inHand.brush.tip.grid) return inHand;
  const { mode: _m, settings: _s, ...mine } = suits.brush;
  const { size, sizeUnit } = inHand.brush;
  return { brush: { ...inHand.brush, texture: undefined, ...mine, size, sizeUnit }, brushId: suits.id };
}

/** Out of what a browser kept, which may be of another version or spoilt: what is no brush is left out. */
export function readToolBrushes(kept: unknown): ToolBrushes {
  const given = (kept ?? {}) as Record<string, Partial<OwnBrush> | undefined>;
  const out: ToolBrushes = {};
  for (const tool of TOOL_TYPES) {
    const brush = brushSchema.safeParse({ ...given[tool]?.brush, writes: {} });
    const { brushId } = given[tool] ?? {};
    if (given[tool] && brush.success) out[tool] = { brush: brush.data, brushId: typeof brushId === 'string' ? brushId : null };
  }
  return out;
}
