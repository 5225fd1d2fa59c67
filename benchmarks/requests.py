"""Requests that the API's own description allows: ids found in it, and bodies made from it."""

import random
import string
import uuid
from datetime import UTC, date, datetime

METHODS = ("get", "post", "put", "patch", "delete")


def operations(spec):
    """Every (method, path, operation)."""
    for path, methods in spec["paths"].items():
        for method, operation in methods.items():
            if method in METHODS:
                yield method, path, operation


def resolved(spec, schema):
    while "$ref" in schema:
        name = schema["$ref"].rsplit("/", 1)[1]
        schema = spec["components"]["schemas"][name]
    return schema


def body_of(spec, operation):
    """Schema of an operation's JSON body, or None."""
    content = operation.get("requestBody", {}).get("content", {})
    return resolved(spec, content["application/json"]["schema"]) if "application/json" in content else None


def id_slots(spec, operation):
    """(place, name) of every id that an operation takes: in the path, the query, or at the top of the body."""
    for parameter in operation.get("parameters", ()):
        if _takes_id(spec, parameter["schema"]):
            yield parameter["in"], parameter["name"]
    for name, schema in ((body_of(spec, operation) or {}).get("properties") or {}).items():
        if _takes_id(spec, schema):
            yield "body", name


def _takes_id(spec, schema):
    schema = resolved(spec, schema)
    inner = [schema.get("items", {}), *schema.get("anyOf", ())]
    return schema.get("format") == "uuid" or any(_takes_id(spec, one) for one in inner if one)


class Drawing:
    """Draws values that a schema allows, at random; `ids` gives real ids by the name of their field."""

    def __init__(self, spec, chance: random.Random, ids=None):
        self.spec, self.chance, self.ids = spec, chance, ids or {}

    def value(self, schema, name="", depth=0):
        schema = resolved(self.spec, schema)
        for key in ("anyOf", "oneOf"):
            if key in schema:
                options = [one for one in schema[key] if depth < 4 or one.get("type") == "null"] or schema[key]
                return self.value(self.chance.choice(options), name, depth + 1)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return self.chance.choice(schema["enum"])
        if "prefixItems" in schema:
            return [self.value(one, "", depth + 1) for one in schema["prefixItems"]]
        draw = getattr(self, f"_{schema.get('type', 'any')}")
        return draw(schema, name, depth)

    def _object(self, schema, name, depth):
        wanted = set(schema.get("required", ()))
        made = {
            key: self.value(inner, key, depth + 1)
            for key, inner in schema.get("properties", {}).items()
            if key in wanted or (depth < 3 and self.chance.random() < 0.5)
        }
        extra = schema.get("additionalProperties")
        if isinstance(extra, dict) and self.chance.random() < 0.3:
            made[self._word(8)] = self.value(extra, "", depth + 1)
        return made

    def _array(self, schema, name, depth):
        low, high = schema.get("minItems", 0), min(schema.get("maxItems", 3), 3)
        return [
            self.value(schema.get("items", {}), name, depth + 1)
            for _ in range(self.chance.randint(low, max(low, high)))
        ]

    def _string(self, schema, name, depth):
        match schema.get("format"):
            case "uuid":
                real = self.ids.get(name.removesuffix("s"), ())
                return (
                    self.chance.choice(list(real))
                    if real and self.chance.random() < 0.9
                    else str(uuid.UUID(int=self.chance.getrandbits(128)))
                )
            case "date":
                return date.fromordinal(self.chance.randint(700_000, 742_000)).isoformat()
            case "time":
                return f"{self.chance.randint(0, 23):02d}:{self.chance.randint(0, 59):02d}"
            case "date-time":
                return datetime.fromtimestamp(self.chance.randint(0, 2_000_000_000), UTC).isoformat()
        least = schema.get("minLength", 0)
        return self._word(self.chance.randint(least, max(min(schema.get("maxLength", 12), 12), least)))

    def _word(self, length):
        return "".join(self.chance.choice(string.ascii_lowercase + " é脊_.") for _ in range(length))

    def _integer(self, schema, name, depth):
        low = int(schema.get("minimum", -3))
        return self.chance.randint(low, max(int(schema.get("maximum", 300)), low))

    def _number(self, schema, name, depth):
        return round(self.chance.uniform(schema.get("minimum", -10), schema.get("maximum", 300)), 2)

    def _boolean(self, schema, name, depth):
        return self.chance.random() < 0.5

    def _null(self, schema, name, depth):
        return None

    def _any(self, schema, name, depth):
        return self.chance.choice([None, True, 3, "word", [], {}])
