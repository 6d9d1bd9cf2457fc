<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * What a setting should be, why, and which rule says so.
 */
final readonly class DesiredSetting
{
    public const UNLIMITED = 'unlimited';

    /**
     * @param  string  $name of the setting; a * stands for any part of it
     * @param  list<string>  $is the values that are right; the first one is set where none of them is
     * @param  list<string>  $has words that have to stand in a list, as options of a mount
     */
    public function __construct(
        public string $name,
        public array $is,
        public ?float $atLeast,
        public ?float $atMost,
        public array $has,
        public string $reason,
        public string $rule,
    ) {
    }

    public function covers(string $name): bool
    {
        return fnmatch($this->name, $name, FNM_NOESCAPE);
    }

    public function holds(string $value): bool
    {
        if ($this->is !== [] && ! in_array(strtolower($value), array_map(strtolower(...), $this->is), true)) {
            return false;
        }
        if ($this->has !== [] && array_diff($this->has, explode(',', $value)) !== []) {
            return false;
        }
        if ($this->atLeast === null && $this->atMost === null) {
            return true;
        }
        $number = $value === self::UNLIMITED ? INF : (is_numeric($value) ? (float) $value : null);

        return $number !== null && $number >= ($this->atLeast ?? -INF) && $number <= ($this->atMost ?? INF);
    }

    /** The value that corrects one that does not hold: the nearest that does. */
    public function target(string $value): string
    {
        if ($this->is !== []) {
            return $this->is[0];
        }
        if ($this->has !== []) {
            $options = $value === '' ? [] : explode(',', $value);

            return implode(',', [...$options, ...array_diff($this->has, $options)]);
        }
        $number = is_numeric($value) ? (float) $value : ($value === self::UNLIMITED ? INF : -INF);
        $nearest = $this->atLeast !== null && $number < $this->atLeast ? $this->atLeast : ($this->atMost ?? $this->atLeast ?? 0.0);

        return self::number($nearest);
    }

    /** For people: what it should be. */
    public function said(): string
    {
        return implode(', ', array_filter([
            $this->is === [] ? '' : implode(' or ', $this->is),
            $this->has === [] ? '' : 'with '.implode(', ', $this->has),
            $this->atLeast === null ? '' : 'at least '.self::number($this->atLeast),
            $this->atMost === null ? '' : 'at most '.self::number($this->atMost),
        ], static fn (string $part): bool => $part !== ''));
    }

    private static function number(float $number): string
    {
        return floor($number) === $number ? sprintf('%.0F', $number) : rtrim(sprintf('%.6F', $number), '0');
    }
}
