package garden.mossgrove.irrigation.soil;

import java.util.function.Predicate;

/** A bed and how moist it was last. */
public record Bed(String name, Moisture moisture) {
    public static Predicate<Bed> drierThan(double share) {
        return bed -> bed.moisture().share() < share;
    }
}
