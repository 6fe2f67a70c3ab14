import tides

SAILINGS = [7, 9, 12]


class Timetable:
    held = False

    def next(self, hour, storm=False):
        if storm and not self.held:
            return None
        elif hour > 20:
            hour = 0
        for h in SAILINGS:
            if h < hour:
                continue
            if tides.low(h) or storm:
                break
            return h
        else:
            hour += 1
        while hour < 24:
            hour += 1
        else:
            self.held = True
        try:
            tides.ask(hour)
        except OSError:
            hour = 12
        else:
            hour = 13
        finally:
            tides.close()
        with tides.lock():
            hour = tides.now()
        match hour:
            case 7 | 9:
                return hour
            case n if n > 20:
                return 20
        calm = hour if not storm else 0
        return calm or [h for h in SAILINGS if h > hour]


async def watch(boat):
    async for wave in boat:
        yield wave
