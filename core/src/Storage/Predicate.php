<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\ZoneMap;

/**
 * What a statement demands of one column, as far as bounds of chunks can tell.
 */
final readonly class Predicate
{
    /** The same for predicates that want the same. */
    public string $signature;

    /**
     * @param  list<int|float|string|bool>|null  $values sorted; the column is one of them
     */
    private function __construct(
        public string $column,
        public int|float|string|bool|null $low,
        public int|float|string|bool|null $high,
        public ?array $values,
        /** False where the values of the statement are not known. */
        public bool $known,
    ) {
        $this->signature = $column.'|'.($known ? serialize([$low, $high, $values]) : '?');
    }

    public static function range(string $column, int|float|string|bool|null $low, int|float|string|bool|null $high): self
    {
        return new self($column, $low, $high, null, true);
    }

    /**
     * @param  non-empty-list<int|float|string|bool>  $values
     */
    public static function oneOf(string $column, array $values): self
    {
        usort($values, self::compare(...));

        return new self($column, $values[0], $values[count($values) - 1], count($values) > 1 ? $values : null, true);
    }

    public static function unknown(string $column): self
    {
        return new self($column, null, null, null, false);
    }

    /** Whether a chunk with these bounds may hold a row that is wanted. */
    public function meets(ZoneMap $zone): bool
    {
        if (! $this->known) {
            return true;
        }
        if ($zone->min === null || $zone->max === null) {
            return $zone->nullCount < $zone->rowCount;
        }
        if (
            ($this->high !== null && self::compare($zone->min, $this->high) > 0) ||
            ($this->low !== null && self::compare($zone->max, $this->low) < 0)
        ) {
            return false;
        }
        foreach ($this->values ?? [] as $value) {
            if (self::compare($value, $zone->min) >= 0) {
                return self::compare($value, $zone->max) <= 0;
            }
        }

        return true;
    }

    /** Whether a row with this value is wanted, as far as it is known. */
    public function takes(int|float|string|bool $value): bool
    {
        return ! $this->known ||
            (($this->low === null || self::compare($value, $this->low) >= 0) &&
                ($this->high === null || self::compare($value, $this->high) <= 0) &&
                ($this->values === null || in_array($value, $this->values, true)));
    }

    public static function compare(int|float|string|bool $a, int|float|string|bool $b): int
    {
        return is_string($a) && is_string($b) ? strcmp($a, $b) : $a <=> $b;
    }
}
