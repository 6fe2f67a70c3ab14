import unittest

from timetable.sailings import Cancelled, Sailing, board, check, first_after
from timetable.tides import Tide, holds

HIGH = Tide(250, rising=True)


class Sailings(unittest.TestCase):
    def test_calm_saturday(self):
        self.assertEqual(board("sat", 10, HIGH), ["08:00 Grend", "16:00 Outer Skerry"])

    def test_friday_night_in_wind(self):
        lines = board("fri", 20, HIGH)
        self.assertIn("cancelled 22:00 to Outer Skerry: 20 knots of wind", lines)
        self.assertEqual(len(lines), 4)

    def test_gale(self):
        with self.assertRaises(Cancelled):
            check(Sailing("Grend", 480), 40, HIGH)

    def test_first_after(self):
        self.assertEqual(first_after("fri", 700).at, 720)


class Tides(unittest.TestCase):
    def test_shallow_harbour(self):
        self.assertTrue(holds("Grend", Tide(120, rising=False)))
        self.assertFalse(holds("Outer Skerry", HIGH))


if __name__ == "__main__":
    unittest.main()
