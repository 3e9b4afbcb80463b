"""From sightings to who is who: motion, tracks, subjects."""
