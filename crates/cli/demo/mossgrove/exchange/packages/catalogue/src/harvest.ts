/** What one bed gave in one year. */
export interface Harvest {
  taxon: string;
  year: number;
  /** Milligrams. */
  seedWeight: number;
}

/** Seeds keep for four years. */
export const isFresh = (harvest: Harvest, year: number): boolean => year - harvest.year <= 4;
