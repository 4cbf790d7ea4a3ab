"""Facts that are only ever added: what every fact and every kind of fact has."""
