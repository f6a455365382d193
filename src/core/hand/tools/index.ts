/** The registry of tools: one line each. */
import { dodge } from './dodge';
import { erase } from './erase';
import { paint } from './paint';
import type { ToolDef } from './tool';

const registry = { paint, erase, dodge };

export type ToolType = keyof typeof registry;
export const TOOLS: Record<ToolType, ToolDef> = registry;
export const TOOL_TYPES = Object.keys(registry) as [ToolType, ...ToolType[]];
