package garden.mossgrove.irrigation.valves;

/** One valve of a bed, known by its place on the {@link ValveBoard}. */
public final class Valve {
    /** What a valve can be. */
    public enum State { OPEN, CLOSED, STUCK }

    private final int place;
    private State state = State.CLOSED;

    public Valve(int place) {
        this.place = place;
    }

    public int place() {
        return place;
    }

    public State state() {
        return state;
    }

    void turn(State to) {
        if (state != State.STUCK) {
            state = to;
        }
    }
}
