<?php

declare(strict_types=1);

namespace App\Metrics\Signals;

use App\Metrics\Store\HostReadings;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Core\Text\Quantity;

/**
 * What hosts are held against each other by.
 */
enum HostMeasure: string
{
    case DiskTime = 'disk-time';
    case Processor = 'processor';
    case Disk = 'disk';
    case Network = 'network';
    case Memory = 'memory';

    /** Bytes a second below which a disk does too little to tell how fast it is. */
    private const LEAST_BYTES = 1_000_000;

    public function label(): string
    {
        return match ($this) {
            self::DiskTime => 'Disk time for the same bytes',
            self::Processor => 'Processors at work',
            self::Disk => 'Bytes read and written',
            self::Network => 'Network',
            self::Memory => 'Memory used',
        };
    }

    public function how(): string
    {
        return match ($this) {
            self::DiskTime => 'Time the disks were at work by the bytes they read and wrote',
            self::Processor => 'Processors at work, on the mean of each interval',
            self::Disk => 'Bytes all disks read and wrote',
            self::Network => 'Bytes that came and went',
            self::Memory => 'The most memory used in each interval',
        };
    }

    /** What alerts watch of it; null where they watch nothing of the kind. */
    public function signal(): ?string
    {
        return match ($this) {
            self::DiskTime => null,
            self::Processor => HostSignal::Processors->signal()->key,
            self::Disk => HostSignal::Disk->signal()->key,
            self::Network => HostSignal::Network->signal()->key,
            self::Memory => HostSignal::Memory->signal()->key,
        };
    }

    /** Whether it is what a host takes for its work, and not how much work it has. */
    public function isCost(): bool
    {
        return $this === self::DiskTime;
    }

    /**
     * @return non-empty-list<string> short names of readings
     */
    public function names(): array
    {
        return match ($this) {
            self::DiskTime => ['disk.busy', 'disk.read', 'disk.write'],
            self::Processor => HostReadings::AT_WORK,
            self::Disk => ['disk.read', 'disk.write'],
            self::Network => ['network.in', 'network.out'],
            self::Memory => ['memory.used'],
        };
    }

    /**
     * @param  array<string, Readings>  $readings by short name
     * @return list<float|null> one a step
     */
    public function values(array $readings, int $from, int $to, int $step): array
    {
        if ($this === self::Memory) {
            return $readings['memory.used']->most($from, $to, $step);
        }
        $rates = array_map(static fn (string $name): array => $readings[$name]->rates($from, $to, $step), $this->names());
        $busy = $this === self::DiskTime ? array_shift($rates) : [];
        $sums = Spread::sums($rates);
        if ($this !== self::DiskTime) {
            return $sums;
        }
        $values = [];
        foreach ($sums as $place => $bytes) {
            $time = $busy[$place] ?? null;
            $values[] = $time === null || $time <= 0.0 || $bytes === null || $bytes < self::LEAST_BYTES ? null : $time / $bytes;
        }

        return $values;
    }

    /** Of the units it is told in. */
    public function base(): int
    {
        return $this === self::DiskTime || $this === self::Processor ? 1 : 1024;
    }

    public function format(float $value): string
    {
        return match ($this) {
            self::DiskTime => Quantity::duration($value * 1e9 * 1e6).'/GB',
            self::Processor => Quantity::digits($value),
            self::Memory => Quantity::bytes($value),
            self::Disk, self::Network => Quantity::bytes($value).'/s',
        };
    }
}
