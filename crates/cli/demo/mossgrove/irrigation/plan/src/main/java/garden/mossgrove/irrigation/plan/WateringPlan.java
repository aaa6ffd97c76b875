package garden.mossgrove.irrigation.plan;

import garden.mossgrove.irrigation.gauges.Gauge;
import garden.mossgrove.irrigation.valves.*;
import java.util.List;

/** The rounds of one night. */
public class WateringPlan implements ValveBoard.Listener {
    private static final double LITRES_A_MINUTE = 4.5;

    private final List<Round> rounds;
    private Gauge gauge = new Gauge(0, 0);

    public WateringPlan(List<Round> rounds) {
        this.rounds = rounds;
    }

    public Gauge run(ValveBoard board) {
        board.listen(this);
        for (Round round : rounds) {
            if (round.possible()) {
                board.open(round.valve().place());
                gauge = gauge.plus(round.minutes() * LITRES_A_MINUTE);
            }
        }
        board.closeAll();
        return gauge;
    }

    @Override
    public void turned(Valve valve) {
        System.out.println("valve " + valve.place() + " is " + valve.state());
    }
}
