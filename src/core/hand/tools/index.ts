/** The registry of tools: one line each. */
import { blur, sharpen } from './blur';
import { clone } from './clone';
import { dodge } from './dodge';
import { erase } from './erase';
import { heal } from './heal';
import { height } from './height';
import { paint } from './paint';
import { pattern } from './pattern';
import { smear } from './smear';
import type { ToolDef } from './tool';

const registry = { paint, erase, dodge, pattern, smear, blur, sharpen, clone, heal, height };

export type ToolType = keyof typeof registry;
export const TOOLS: Record<ToolType, ToolDef> = registry;
export const TOOL_TYPES = Object.keys(registry) as ToolType[];
