static int minute = 0;

void clock_begin() { minute = 0; }

int clock_minute() { return minute = (minute + 1) % 1440; }
