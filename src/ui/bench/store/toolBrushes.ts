/** Each tool has a brush of its own: the one that it had last, or one that suits it. */
import { brushSchema } from '@/core/hand/brush';
import { TOOLS, TOOL_TYPES, type ToolType } from '@/core/hand/tools';
import type { HandTool } from '../keys/tools';
import { brushFrom, entryOf } from './rackEntries';
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

/**
 * The brush of a tool that is taken for the first time: the one that suits it, in the size in hand. The brush in hand stays if the rack is
 * not loaded yet, or if it paints whole texels: then the sheet is painted texel by texel, with every tool.
 */
function firstBrush(tool: ToolType, inHand: OwnBrush): OwnBrush {
  const suited = entryOf(TOOLS[tool].suitedBrush ?? null);
  if (!suited || inHand.brush.tip.grid) return inHand;
  const { size, sizeUnit } = inHand.brush;
  const { brush, brushId } = brushFrom(suited, inHand.brush);
  return { brush: { ...brush, size, sizeUnit }, brushId };
}

/** Reads the brushes that a browser stored, perhaps by another version, perhaps damaged: entries that are no brush are dropped. */
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
