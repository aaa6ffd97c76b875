import { type Packet, weigh } from "../../catalogue/src";
import { Address } from "./address";

/** Packets that go to one garden. */
export class Parcel {
  private readonly packets: Packet[] = [];

  constructor(readonly to: Address) {}

  add(packet: Packet): void {
    this.packets.push(packet);
  }

  /** Milligrams, with the box. */
  weight(): number {
    return this.packets.reduce((sum, packet) => sum + weigh(packet), 90_000);
  }
}
