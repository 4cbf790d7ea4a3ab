"""The demo scenario: a wine growers' cooperative's repair bench. Everything in it is invented."""
