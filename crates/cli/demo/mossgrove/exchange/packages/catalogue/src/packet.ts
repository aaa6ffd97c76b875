import type { Harvest } from "./harvest";

/** Seeds in a paper bag. */
export interface Packet {
  harvest: Harvest;
  seeds: number;
}

/** The weight of a packet in milligrams. */
export const weigh = (packet: Packet): number => packet.seeds * packet.harvest.seedWeight;
