"""Small simulated stand-ins for devices and services, so that everything can be tried without."""
