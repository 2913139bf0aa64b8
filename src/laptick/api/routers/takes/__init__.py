"""Routes of takes: made, shown, judged, overruled, heard."""
