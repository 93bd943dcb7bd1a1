/** The wanted bands of a formula: its own, or those of its purpose. Pure edits, as in edits.ts. */
import type { Band, Formula, Purpose, Quality, Target } from '../api/types';
import type { Edge } from '../shared/figures/BandEdges';

export function bandsOf(formula: Formula, purpose: Purpose | undefined): Band[] {
  return formula.bands ?? purpose?.bands ?? [];
}

/** Move one edge; a quality without a band gets one that reaches to the other end of its axis. */
export function setEdge(
  formula: Formula,
  purpose: Purpose | undefined,
  quality: Quality,
  edge: Edge,
  points: number,
): Formula {
  const bands = bandsOf(formula, purpose);
  const band = bands.find((one) => one.quality === quality.id) ?? {
    quality: quality.id,
    minimum: quality.axis_minimum,
    maximum: quality.axis_maximum,
  };
  return withBand(formula, bands, { ...band, [edge]: points });
}

export function dropBand(formula: Formula, purpose: Purpose | undefined, quality: string): Formula {
  return { ...formula, bands: bandsOf(formula, purpose).filter((one) => one.quality !== quality) };
}

function withBand(formula: Formula, bands: Band[], band: Band): Formula {
  const known = bands.some((one) => one.quality === band.quality);
  return {
    ...formula,
    bands: known ? bands.map((one) => (one.quality === band.quality ? band : one)) : [...bands, band],
  };
}

/** Bands as targets that can be saved by name, open where they reach the start of their axis. */
export function toTargets(bands: Band[], qualities: Quality[]): Target[] {
  return bands.map((band) => {
    const axis = qualities.find((quality) => quality.id === band.quality);
    return {
      feature: band.quality,
      minimum: axis && band.minimum <= axis.axis_minimum ? null : band.minimum,
      maximum: band.maximum,
      must: false,
      weight: 1,
    };
  });
}

/** The bands among targets: those on qualities, closed at the ends of their axes where they are open. */
export function toBands(targets: Target[], qualities: Quality[]): Band[] {
  return targets.flatMap((target) => {
    const quality = qualities.find((known) => known.id === target.feature);
    if (quality === undefined) return [];
    const minimum = target.minimum ?? quality.axis_minimum;
    return [{ quality: quality.id, minimum, maximum: target.maximum ?? Math.max(quality.axis_maximum, minimum) }];
  });
}
