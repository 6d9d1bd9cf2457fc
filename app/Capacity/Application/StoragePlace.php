<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use Fulcrion\Core\Capacity\FullForecast;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StorageStep;
use Fulcrion\Core\Text\Quantity;

/**
 * A file system, or all a cluster stores: how full it was, and when it will be full.
 */
final readonly class StoragePlace
{
    private const DAY = 86_400;

    /**
     * @param  non-empty-list<StorageReading>  $readings ascending
     * @param  list<StorageStep>  $steps
     */
    public function __construct(
        public string $name,
        public array $readings,
        public array $steps,
        public ?FullForecast $forecast,
    ) {
    }

    /**
     * @param  list<StorageReading>  $readings ascending
     * @return self|null null where nothing is known
     */
    public static function of(string $name, array $readings): ?self
    {
        if ($readings === []) {
            return null;
        }
        $byDay = [];
        foreach ($readings as $one) {
            $byDay[intdiv($one->at, self::DAY)] = $one->usedBytes;
        }
        $days = [];
        for ($day = array_key_first($byDay); $day <= array_key_last($byDay); $day++) {
            $days[] = $byDay[$day] ?? null;
        }
        $last = $readings[count($readings) - 1];

        return new self($name, $readings, StorageStep::find($readings), FullForecast::of($days, $last->limitBytes));
    }

    public function last(): StorageReading
    {
        return $this->readings[count($this->readings) - 1];
    }

    public function share(): float
    {
        return $this->last()->usedBytes / max(1.0, $this->last()->limitBytes);
    }

    /** For people: where it is. */
    public function title(string $cluster): string
    {
        return $this->name === CapacityStore::WHOLE ? "the storage of {$cluster}" : $this->name;
    }

    /** For people: when it is full. */
    public function whenFull(): string
    {
        $full = $this->forecast;

        return match (true) {
            $this->share() >= 1.0 => 'full',
            $full === null => 'not known yet',
            $full->days === null => $full->weeklyBytes <= 0.0 ? 'does not grow' : 'in more than three years',
            default => 'in '.self::days($full->days).($full->earliest === $full->latest ? '' : ', from '.$full->earliest.' to '
                .($full->latest === null ? 'never' : "{$full->latest} days")),
        };
    }

    public static function days(int $days): string
    {
        return match (true) {
            $days === 1 => 'one day',
            $days < 21 => "{$days} days",
            $days < 70 => 'about '.round($days / 7).' weeks',
            default => 'about '.round($days / 30.4).' months',
        };
    }

    public function growth(): string
    {
        $bytes = $this->forecast?->weeklyBytes;

        return $bytes === null ? Quantity::NONE : ($bytes < 0 ? '−' : '').Quantity::bytes(abs($bytes));
    }

    /** Whether one limit was another one during the time: a file system that was made larger or smaller. */
    public function resized(): ?StorageReading
    {
        for ($i = count($this->readings) - 1; $i > 0; $i--) {
            if (abs($this->readings[$i]->limitBytes - $this->readings[$i - 1]->limitBytes) > 0.001 * $this->readings[$i]->limitBytes) {
                return $this->readings[$i];
            }
        }

        return null;
    }
}
