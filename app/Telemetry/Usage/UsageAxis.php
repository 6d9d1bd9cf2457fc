<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Platform\Support\MomentStyle;
use DateTimeZone;

/**
 * What stands on the rows or columns of a table of use: a field, or a grain of time.
 */
final readonly class UsageAxis
{
    public const GRAINS = ['day', 'week', 'month'];

    private const WEEK = 604_800;

    /** Monday, 5 January 1970. */
    private const MONDAY = 345_600;

    private function __construct(public string $key, public ?UsageField $field)
    {
    }

    public static function of(string $key): ?self
    {
        $field = UsageField::tryFrom($key);

        return $field === null && ! in_array($key, self::GRAINS, true) ? null : new self($key, $field);
    }

    public static function day(): self
    {
        return new self('day', null);
    }

    public static function field(UsageField $field): self
    {
        return new self($field->value, $field);
    }

    /**
     * @return list<self>
     */
    public static function all(): array
    {
        return [
            ...array_map(static fn (string $grain): self => new self($grain, null), self::GRAINS),
            ...array_map(static fn (UsageField $field): self => new self($field->value, $field), UsageField::cases()),
        ];
    }

    public function isTime(): bool
    {
        return $this->field === null;
    }

    /** Whether it tells days of one month apart. */
    public function isFinerThanMonth(): bool
    {
        return in_array($this->key, ['day', 'week'], true);
    }

    public function label(): string
    {
        return $this->field?->label() ?? $this->key;
    }

    public function column(): string
    {
        return match (true) {
            $this->field !== null => $this->field->column(),
            $this->key === 'week' => 'f.day_at - (f.day_at - '.self::MONDAY.') % '.self::WEEK,
            $this->key === 'month' => "DATE_FORMAT('1970-01-01' + INTERVAL f.day_at SECOND, '%Y-%m')",
            default => 'f.day_at',
        };
    }

    /** The value of an axis of time that a day has. */
    public function at(int $day): string
    {
        return match ($this->key) {
            'week' => (string) ($day - ($day - self::MONDAY) % self::WEEK),
            'month' => gmdate('Y-m', $day),
            default => (string) $day,
        };
    }

    private static function said(int $at, MomentStyle $style): string
    {
        return moment($at * 1_000_000, $style, new DateTimeZone('UTC'));
    }

    /** A value as people read it. */
    public function name(string $value): string
    {
        return match (true) {
            $this->field !== null => $value === '' ? $this->field->none() : $value,
            $this->key === 'month' => self::said((int) strtotime("{$value}-01 UTC"), MomentStyle::Month),
            $this->key === 'week' => 'from '.self::said((int) $value, MomentStyle::ShortDay),
            default => self::said((int) $value, MomentStyle::Weekday),
        };
    }
}
