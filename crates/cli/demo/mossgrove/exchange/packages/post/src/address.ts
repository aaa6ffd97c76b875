/** Where a garden takes its post. */
export interface Address {
  garden: string;
  country: string;
}
