<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Platform\Support\MomentStyle;
use DateTimeImmutable;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;

/**
 * What stands on the rows or columns of a table of use: a field, or a grain of time.
 */
final readonly class UsageAxis
{
    public const GRAINS = ['hour', 'day', 'week', 'month', 'daytime'];

    private const HOUR = 3_600;

    private function __construct(public string $key, public ?UsageField $field)
    {
    }

    public static function of(string $key): ?self
    {
        $field = UsageField::tryFrom($key);

        return $field === null && ! in_array($key, self::GRAINS, true) ? null : new self($key, $field);
    }

    /** By its name in words, as programs are told it. */
    public static function labelled(string $label): ?self
    {
        foreach (self::all() as $axis) {
            if ($axis->label() === $label || $axis->key === $label && $axis->field === null) {
                return $axis;
            }
        }

        return null;
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

    /**
     * The spans whose days it does not distinguish.
     *
     * @return list<string> months and weeks as UsageSums names them
     */
    public function within(): array
    {
        return match (true) {
            $this->field !== null => ['months', 'weeks'],
            $this->key === 'month' => ['months'],
            $this->key === 'week' => ['weeks'],
            default => [],
        };
    }

    /** Whether it distinguishes hours of one day, which are not kept as long as days are. */
    public function isOfHours(): bool
    {
        return in_array($this->key, ['hour', 'daytime'], true);
    }

    public function label(): string
    {
        return $this->field?->label() ?? ($this->key === 'daytime' ? 'hour of the day' : $this->key);
    }

    /**
     * @param  Calendar  $calendar of the days, and of the hours they have
     * @param  Days  $days that are asked for
     */
    public function column(Calendar $calendar, Days $days): string
    {
        return match (true) {
            $this->field !== null => $this->field->column(),
            $this->key === 'hour' => 'f.hour_at',
            $this->key === 'daytime' => 'FLOOR('.ShownTime::of($calendar, 'f.hour_at', ...$calendar->span($days)).
                ' % '.Days::DAY.' / '.self::HOUR.')',
            $this->key === 'week' => 'f.day_at - (f.day_at - '.Days::MONDAY.') % '.Days::WEEK,
            $this->key === 'month' => "DATE_FORMAT('1970-01-01' + INTERVAL f.day_at SECOND, '%Y-%m')",
            default => 'f.day_at',
        };
    }

    /**
     * The value of an axis of time that a moment has.
     *
     * @param  int  $at start of an hour, in Unix seconds
     */
    public function at(int $at, Calendar $calendar): string
    {
        $shown = $calendar->shown($at);

        return match ($this->key) {
            'hour' => (string) $at,
            'daytime' => (string) intdiv($shown % Days::DAY, self::HOUR),
            'week' => (string) Days::week($shown)->from,
            'month' => gmdate('Y-m', $shown),
            default => (string) Days::start($shown),
        };
    }

    /** A value of an axis of time other than the month as files and programs get it. */
    public function written(int $value): string
    {
        return match ($this->key) {
            'hour' => gmdate('Y-m-d\TH:i:s\Z', $value),
            'daytime' => (string) $value,
            default => gmdate('Y-m-d', $value),
        };
    }

    /** By the clocks of the estate; the offset is only said where they differ from UTC. */
    private static function hour(int $at): string
    {
        $calendar = app(Calendar::class);

        return moment($at * 1_000_000, MomentStyle::Minute, $calendar->zone).
            ($calendar->isUtc() ? '' : (new DateTimeImmutable("@{$at}"))->setTimezone($calendar->zone)->format(' (P)'));
    }

    private static function said(int $at, MomentStyle $style): string
    {
        return onUtc($at, $style);
    }

    /** A value as people read it. */
    public function name(string $value): string
    {
        return match (true) {
            $this->field !== null => $value === '' ? $this->field->none() : $value,
            $this->key === 'month' => self::said((int) strtotime("{$value}-01 UTC"), MomentStyle::Month),
            $this->key === 'hour' => self::hour((int) $value),
            $this->key === 'daytime' => sprintf('%02d to %02d h', (int) $value, (int) $value + 1),
            $this->key === 'week' => 'from '.self::said((int) $value, MomentStyle::ShortDay),
            default => self::said((int) $value, MomentStyle::Weekday),
        };
    }
}
