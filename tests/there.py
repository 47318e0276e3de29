"""What a test knows to be there."""

from typing import TypeVar

T = TypeVar("T")


def there(value: T | None) -> T:
    """Return a value that must not be missing."""
    assert value is not None
    return value
