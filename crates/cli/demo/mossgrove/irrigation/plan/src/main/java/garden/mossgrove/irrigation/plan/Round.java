package garden.mossgrove.irrigation.plan;

import garden.mossgrove.irrigation.valves.Valve;

/** A valve and for how many minutes it is open. */
public record Round(Valve valve, int minutes) {
    public boolean possible() {
        return valve.state() != Valve.State.STUCK;
    }
}
