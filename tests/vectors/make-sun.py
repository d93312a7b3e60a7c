#!/usr/bin/env python3
"""Makes sun.json: sunrises and sunsets as PyEphem (Debian: python3-ephem) has them, its middle at -0:50 and no air,
which is the definition that sunAt() uses. Run from the project's root."""
import calendar
import datetime
import json
import math
import ephem

all = []
for latitude, longitude in ((54.2, 9.1), (48.1, 11.6), (0.0, 32.6), (-33.9, 151.2), (64.1, -21.9), (69.6, 18.9), (40.7, -74.0)):
    for day in ("2026-03-20", "2026-06-21", "2026-09-23", "2026-11-30", "2026-12-21"):
        place = ephem.Observer()
        place.lat, place.lon, place.horizon, place.pressure = str(latitude), str(longitude), "-0:50", 0
        # From local midnight on, by the sun.
        midnight = datetime.datetime.fromisoformat(day) - datetime.timedelta(hours=longitude / 15)
        place.date = ephem.Date(midnight)
        for rise in (True, False):
            utc = None
            try:
                when = (place.next_rising if rise else place.next_setting)(ephem.Sun(), use_center=True).datetime()
                if when - midnight < datetime.timedelta(days=1):
                    utc = round(calendar.timegm(when.timetuple()) * 1000 + when.microsecond / 1000)
            except (ephem.AlwaysUpError, ephem.NeverUpError):
                pass
            all.append({"day": day, "latitude": latitude, "longitude": longitude, "rise": rise, "utc": utc})
with open("tests/vectors/sun.json", "w") as out:
    json.dump(all, out, indent=0)
    out.write("\n")
print(len(all), "moments,", sum(v["utc"] is None for v in all), "that do not come")
