<?php

declare(strict_types=1);

namespace App\Metrics\Signals;

use App\Metrics\Store\HostReadings;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Statistics\Spread;

/**
 * What every host tells that can be watched.
 */
enum HostSignal: string
{
    case Processors = 'processors';
    case DiskBusy = 'disk-busy';
    case DiskFull = 'disk-full';
    case Memory = 'memory';
    case Load = 'load';
    case Disk = 'disk';
    case Network = 'network';
    case Swap = 'swap';

    public function signal(): Signal
    {
        [$label, $unit, $scale, $usual] = match ($this) {
            self::Processors => ['Processors at work', '%', 0.01, 90.0],
            self::DiskBusy => ['Time disks are at work', '%', 0.01, 90.0],
            self::DiskFull => ['File systems used', '%', 0.01, 85.0],
            self::Memory => ['Memory used', '%', 0.01, 95.0],
            self::Load => ['Processes that run or wait, of the kernel', '', 1.0, 32.0],
            self::Disk => ['Bytes read and written', 'MiB/s', 1_048_576.0, 500.0],
            self::Network => ['Network', 'MiB/s', 1_048_576.0, 500.0],
            self::Swap => ['Pages swapped in and out', 'a second', 1.0, 100.0],
        };

        return new Signal("host:{$this->value}", $label, $unit, $scale, $usual, true, isLimited: $this === self::DiskFull);
    }

    /**
     * @return non-empty-list<string> short names of readings
     */
    public function names(): array
    {
        return match ($this) {
            self::Processors => [...HostReadings::AT_WORK, ...HostReadings::NOT_AT_WORK],
            self::DiskBusy => ['disk.busy'],
            self::DiskFull => ['disk.used', 'disk.limit'],
            self::Memory => ['memory.used', 'memory.limit'],
            self::Load => ['load'],
            self::Disk => ['disk.read', 'disk.write'],
            self::Network => ['network.in', 'network.out'],
            self::Swap => ['swap.in', 'swap.out'],
        };
    }

    /**
     * @param  array<string, Readings>  $readings by short name
     * @return list<float|null> one a step
     */
    public function values(array $readings, int $from, int $to, int $step): array
    {
        $rates = static fn (array $names): array => Spread::sums(array_map(
            static fn (string $name): array => $readings[$name]->rates($from, $to, $step), $names));
        $most = static fn (string $name): array => $readings[$name]->most($from, $to, $step);

        return match ($this) {
            self::Processors => self::shares($rates(HostReadings::AT_WORK), $rates($this->names())),
            self::DiskFull => self::shares($most('disk.used'), $most('disk.limit')),
            self::Memory => self::shares($most('memory.used'), $most('memory.limit')),
            self::Load => $most('load'),
            default => $rates($this->names()),
        };
    }

    /**
     * @param  list<float|null>  $parts
     * @param  list<float|null>  $wholes
     * @return list<float|null>
     */
    private static function shares(array $parts, array $wholes): array
    {
        $shares = [];
        foreach ($parts as $place => $part) {
            $whole = $wholes[$place] ?? null;
            $shares[] = $part === null || $whole === null || $whole <= 0.0 ? null : $part / $whole;
        }

        return $shares;
    }
}
