"""What `tables` says."""

TEMPERATURE_SENSOR_CIRCUIT = "the temperature sensor circuit is at fault"
