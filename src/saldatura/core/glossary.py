"""What each field means, by its name, or by class and name where the same name means something of its own."""

GLOSSARY: dict[str, str] = {}
