/** Masks’ recipes that are kept in this browser. */
import { STEPS } from '@/core/kinds/steps';
import { setMaskEdit } from '@/core/document/edits';
import { stepSchema, type Mask, type Step } from '@/core/document/schema';
import { newId } from '../layers/ids';
import { currentSheet, edit, say, useBench } from '../store';
import { sound } from './steps';

export interface Recipe {
  name: string;
  ground: number;
  invert: boolean;
  steps: Step[];
}

const RECIPES_KEY = 'brindle-recipes';

const MOST_RECIPES = 100;

/** The artist's own recipes stay in the browser, as brushes and wells do. */
export function savedRecipes(): Recipe[] {
  try {
    const list = JSON.parse(localStorage.getItem(RECIPES_KEY) ?? '[]') as Recipe[];
    return list.map((r) => ({ ...r, steps: r.steps.map((s) => stepSchema.parse(s)) }));
  } catch {
    return [];
  }
}

function store(recipes: Recipe[]): boolean {
  try {
    localStorage.setItem(RECIPES_KEY, JSON.stringify(recipes));
    return true;
  } catch {
    say('The browser’s store is full: delete saved recipes that you do not need.');
    return false;
  }
}

export function saveRecipe(mask: Mask, name: string): void {
  const steps = mask.steps.filter((s) => STEPS[s.source.type].anywhere);
  const left = mask.steps.length - steps.length;
  const others = savedRecipes().filter((r) => r.name !== name);
  if (others.length >= MOST_RECIPES) return say(`Up to ${MOST_RECIPES} recipes are kept: delete one first.`);
  const recipe: Recipe = { name, ground: mask.ground, invert: mask.invert, steps };
  if (store([...others, recipe]))
    say(
      left
        ? `"${name}" is saved without ${left === 1 ? 'one step' : `${left} steps`} that belong to this sheet only.`
        : `"${name}" is saved: any mask can take it.`,
    );
}

export function deleteRecipe(name: string): void {
  store(savedRecipes().filter((r) => r.name !== name));
}

/** Puts a saved recipe in place of a mask's steps. What was painted before comes back by undo. */
export function applyRecipe(mask: Mask, recipe: Recipe): void {
  const steps = recipe.steps.map((s) => ({ ...structuredClone(s), id: newId() }));
  if (!sound(mask, steps)) return;
  edit(
    setMaskEdit(currentSheet(), mask, { ground: recipe.ground, invert: recipe.invert, steps }),
    `${mask.name}: ${recipe.name}`,
  );
  useBench.setState({ openStep: null });
}
