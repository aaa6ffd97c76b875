package garden.mossgrove.irrigation.soil;

/** A share of water between 0 and 1. */
public record Moisture(double share) {
    public static final Moisture DRY = new Moisture(0.0);
}
