import { Color } from 'three'

/** A colour of the page's own, as it is in this shift. */
export const tone = (name: string): Color => new Color(getComputedStyle(document.documentElement).getPropertyValue(name).trim())
