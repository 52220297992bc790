"""What was prescribed with an approved Script, against which the rider's next run is held."""
