package garden.mossgrove.irrigation.gauges;

/** Litres that went through a valve. */
public record Gauge(int place, double litres) {
    public Gauge plus(double more) {
        return new Gauge(place, litres + more);
    }
}
