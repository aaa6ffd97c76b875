package garden.mossgrove.irrigation.valves;

import static garden.mossgrove.irrigation.valves.Valve.State.CLOSED;
import static garden.mossgrove.irrigation.valves.Valve.State.OPEN;

import java.util.ArrayList;
import java.util.List;

/** All valves, side by side. */
public class ValveBoard {
    /** Called after a valve was turned. */
    public interface Listener {
        void turned(Valve valve);
    }

    private final List<Valve> valves = new ArrayList<>();
    private final List<Listener> listeners = new ArrayList<>();

    public Valve add() {
        Valve valve = new Valve(valves.size());
        valves.add(valve);
        return valve;
    }

    public void listen(Listener listener) {
        listeners.add(listener);
    }

    public void open(int place) {
        turn(valves.get(place), OPEN);
    }

    public void closeAll() {
        valves.forEach(valve -> turn(valve, CLOSED));
    }

    private void turn(Valve valve, Valve.State to) {
        valve.turn(to);
        listeners.forEach(listener -> listener.turned(valve));
    }
}
