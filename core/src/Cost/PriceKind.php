<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

/**
 * What is paid for.
 */
enum PriceKind: string
{
    case NodeHour = 'node_hour';
    case BurstHour = 'burst_hour';
    case WorkerHour = 'worker_hour';
    case ScannedTebibyte = 'scanned_tib';
    case StorageMonth = 'storage_gib_month';
    case BackupMonth = 'backup_gib_month';
    case NetworkOut = 'network_out_gib';
    case MonthlyFee = 'monthly_fee';
    case Discount = 'discount';

    public function label(): string
    {
        return match ($this) {
            self::NodeHour => 'node, an hour',
            self::BurstHour => 'burst cluster, an hour',
            self::WorkerHour => 'worker of jobs, an hour',
            self::ScannedTebibyte => 'TiB scanned',
            self::StorageMonth => 'GiB stored, a month',
            self::BackupMonth => 'GiB of backups, a month',
            self::NetworkOut => 'GiB sent out',
            self::MonthlyFee => 'fee, a month',
            self::Discount => 'discount, in percent',
        };
    }

    /** What is paid for, without its unit. */
    public function name(): string
    {
        return match ($this) {
            self::NodeHour => 'nodes',
            self::BurstHour => 'burst clusters',
            self::WorkerHour => 'workers of jobs',
            self::ScannedTebibyte => 'bytes scanned',
            self::StorageMonth => 'storage',
            self::BackupMonth => 'backups',
            self::NetworkOut => 'bytes sent out',
            self::MonthlyFee => 'fees',
            self::Discount => 'discounts',
        };
    }

    /** Whether there is so much of it until there is another amount, paid for by the month. */
    public function isLevel(): bool
    {
        return in_array($this, [self::StorageMonth, self::BackupMonth], true);
    }

    /** Whether somebody has to say how much of it some days had. */
    public function isFlow(): bool
    {
        return in_array($this, [self::BurstHour, self::NetworkOut], true);
    }

    /** What an amount of it is counted in. */
    public function unit(): string
    {
        return match ($this) {
            self::NodeHour, self::BurstHour => 'hours',
            self::WorkerHour => 'worker hours',
            self::ScannedTebibyte => 'TiB',
            self::StorageMonth, self::BackupMonth, self::NetworkOut => 'GiB',
            self::MonthlyFee => 'months',
            self::Discount => 'percent',
        };
    }

    /** Whether it is paid for as long as it is there, whoever uses it. */
    public function isStanding(): bool
    {
        return in_array($this, [self::NodeHour, self::MonthlyFee], true);
    }

    /** Whether the more of it in a month, the lower its price may be. */
    public function hasTiers(): bool
    {
        return in_array($this, [self::ScannedTebibyte, self::StorageMonth, self::BackupMonth, self::NetworkOut], true);
    }
}
