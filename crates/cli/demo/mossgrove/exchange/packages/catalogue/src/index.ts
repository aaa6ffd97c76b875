export { type Packet, weigh } from "./packet";
export * from "./harvest";
