import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
} from 'three'

import type { Piece } from '@/api/types'

import type { FaceTones } from './tone'


/** A piece as it is drawn, with its points as they lie in the blank. */
export interface Part3 {
  piece: Piece
  faces: Mesh
  edges: LineSegments
  /** Lines that are only marked, on both faces. */
  creases: LineSegments
  flat: { faces: Float32Array; edges: Float32Array; creases: Float32Array }
}

/** Whether a place of the blank lies on a piece. */
export function covers(piece: Piece, [x, y]: readonly [number, number]): boolean {
  const t = piece.triangles
  for (let i = 0; i < t.length; i += 6) {
    const [ax, ay, bx, by, cx, cy] = t.slice(i, i + 6) as [number, number, number, number, number, number]
    const sides = [
      (bx - ax) * (y - ay) - (by - ay) * (x - ax),
      (cx - bx) * (y - by) - (cy - by) * (x - bx),
      (ax - cx) * (y - cy) - (ay - cy) * (x - cx),
    ]
    if (sides.every((s) => s >= -1e-6) || sides.every((s) => s <= 1e-6)) return true
  }
  return false
}

function linesOf(points: Float32Array, material: LineBasicMaterial): LineSegments {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(points.slice(), 3))
  return new LineSegments(geometry, material)
}

/** Both faces of a piece, its rim and its edges, as it lies in the blank. */
export function buildPiece(piece: Piece, thickness: number, tones: FaceTones): Part3 {
  const top: number[] = []
  const under: number[] = []
  for (let i = 0; i < piece.triangles.length; i += 6) {
    const [ax, ay, bx, by, cx, cy] = piece.triangles.slice(i, i + 6) as [number, number, number, number, number, number]
    top.push(ax, ay, 0, bx, by, 0, cx, cy, 0)
    under.push(ax, ay, -thickness, cx, cy, -thickness, bx, by, -thickness)
  }
  const rim: number[] = []
  const lines: number[] = []
  for (const outline of piece.outlines) {
    for (let i = 0; i + 3 < outline.length; i += 2) {
      const [ax, ay, bx, by] = outline.slice(i, i + 4) as [number, number, number, number]
      rim.push(ax, ay, 0, ax, ay, -thickness, bx, by, 0, bx, by, 0, ax, ay, -thickness, bx, by, -thickness)
      lines.push(ax, ay, 0, bx, by, 0, ax, ay, -thickness, bx, by, -thickness)
    }
  }
  const marked: number[] = []
  for (let i = 0; i + 3 < piece.creases.length; i += 4) {
    const [ax, ay, bx, by] = piece.creases.slice(i, i + 4) as [number, number, number, number]
    marked.push(ax, ay, 0, bx, by, 0, ax, ay, -thickness, bx, by, -thickness)
  }
  const flat = { faces: new Float32Array([...top, ...under, ...rim]), edges: new Float32Array(lines), creases: new Float32Array(marked) }
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(flat.faces.slice(), 3))
  geometry.addGroup(0, top.length / 3, 0)
  geometry.addGroup(top.length / 3, under.length / 3, 1)
  geometry.addGroup((top.length + under.length) / 3, rim.length / 3, 2)
  const materials = [tones.up, tones.down, tones.rim].map(
    (colour) =>
      new MeshLambertMaterial({
        color: colour.clone(), side: DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1,
      }),
  )
  const edges = linesOf(flat.edges, new LineBasicMaterial({ color: tones.edge, transparent: true, opacity: piece.bend === null ? 0.85 : 0.28 }))
  const creases = linesOf(flat.creases, new LineBasicMaterial({ color: tones.mark }))
  return { piece, faces: new Mesh(geometry, materials), edges, creases, flat }
}
