import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { client, take } from '@/api/client'
import { recipeQuery } from '@/api/queries'
import type { Recipe, RecipeAnswer } from '@/api/types'
import { tell } from '@/shell/tell'
import { useUndo } from '@/stores/undo'

import type { Step } from './recipeSteps'

/** The recipe of a part built here, and changes to it that can be undone. */
export function useRecipe(part: MaybeRefOrGetter<number>) {
  const queries = useQueryClient()
  const undo = useUndo()
  const { data: answer, error, refetch } = useQuery(computed(() => recipeQuery(toValue(part))))

  const changeNow = undo.inTurn(async (at: number, what: string, changed: (now: Recipe) => Recipe) => {
    const was = await queries.fetchQuery({ ...recipeQuery(at), staleTime: Infinity })
    // What the change, or taking it back, is made on.
    let seen = was.seen
    const send = (recipe: Recipe) => async () => {
      try {
        const now = await take<RecipeAnswer>(client.PUT('/api/parts/{part}/recipe', { params: { path: { part: at } }, body: { recipe, seen } }))
        seen = now.seen
        queries.setQueryData(['recipe', at], now)
      } catch (error) {
        await queries.invalidateQueries({ queryKey: ['recipe', at] })
        throw error
      }
      void queries.invalidateQueries({ predicate: (q) => !['recipe', 'starters', 'stores', 'who'].includes(String(q.queryKey[0])) })
    }
    await undo.runNow({ what, make: send(changed(was.recipe)), unmake: send(was.recipe) })
  })

  /** Change the recipe to what is made of it as it is when its turn comes. */
  function change(what: string, changed: (now: Recipe) => Recipe): void {
    changeNow(toValue(part), what, changed).catch(tell)
  }

  /** Give a dimension, or the thickness or radius of the sheet, as a number or a formula. */
  function setDimension(name: string, typed: string): void {
    const text = typed.trim()
    const said = text !== '' && Number.isFinite(Number(text)) ? Number(text) : text
    const isOwn = name === 'thickness' || name === 'inside_radius'
    change(name, (now) => (isOwn ? { ...now, [name]: said } : { ...now, dimensions: { ...now.dimensions, [name]: said } }))
  }

  const setHand = (hand: NonNullable<Recipe['hand']>) => change('Hand', (now) => ({ ...now, hand }))
  const setStep = (i: number, step: Step) => change(`Step ${i + 1}`, (now) => ({ ...now, steps: now.steps.map((s, j) => (j === i ? step : s)) }))
  const addStep = (step: Step) => change('A step more', (now) => ({ ...now, steps: [...now.steps, step] }))
  const dropStep = (i: number) => change('A step less', (now) => ({ ...now, steps: now.steps.filter((_, j) => j !== i) }))
  return { answer, error, refetch, setDimension, setHand, setStep, addStep, dropStep }
}
