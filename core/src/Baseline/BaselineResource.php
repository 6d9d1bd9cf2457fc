<?php

declare(strict_types=1);

namespace Fulcrion\Core\Baseline;

use Fulcrion\Core\Text\Quantity;

/**
 * What hardware is measured by.
 */
enum BaselineResource: string
{
    case Processors = 'processors';
    case Memory = 'memory';
    case DiskRead = 'disk-read';
    case DiskWrite = 'disk-write';
    case DiskRandom = 'disk-random';
    case Network = 'network';

    public function label(): string
    {
        return match ($this) {
            self::Processors => 'Processors',
            self::Memory => 'Memory, written in blocks',
            self::DiskRead => 'Disk, read from end to end',
            self::DiskWrite => 'Disk, written from end to end',
            self::DiskRandom => 'Disk, read here and there',
            self::Network => 'Network',
        };
    }

    public function say(float $value): string
    {
        return match ($this) {
            self::Processors => Quantity::short($value).' rounds/s',
            self::DiskRandom => Quantity::short($value).' reads/s',
            default => Quantity::bytes($value).'/s',
        };
    }

    /** How it is measured, with the tool. */
    public function how(): string
    {
        return match ($this) {
            self::Processors => 'sysbench cpu: prime numbers below 10 000 on all processors',
            self::Memory => 'sysbench memory: blocks of 1 MiB written by all processors',
            self::DiskRead => 'fio: read in blocks of 1 MiB, 16 at once, past the memory of the system',
            self::DiskWrite => 'fio: written in blocks of 1 MiB, 16 at once, past the memory of the system',
            self::DiskRandom => 'fio: blocks of 16 KiB read at places drawn at random, 16 at once',
            self::Network => 'iperf3: one stream of TCP to another host',
        };
    }
}
