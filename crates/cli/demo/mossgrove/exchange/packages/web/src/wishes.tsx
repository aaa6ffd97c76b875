import { isFresh } from "../../catalogue/src/harvest";
import type { Packet } from "../../catalogue/src/packet";

/** The packets that a garden may wish for. */
export const Wishes = (props: { packets: Packet[]; year: number }) => (
  <ul>
    {props.packets
      .filter((packet) => isFresh(packet.harvest, props.year))
      .map((packet) => (
        <li key={packet.harvest.taxon}>{packet.harvest.taxon}</li>
      ))}
  </ul>
);
