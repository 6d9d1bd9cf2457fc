<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * Versions nobody goes back to fill the disk.
 */
final readonly class ExpiredVersions implements HouseRule
{
    public function id(): string
    {
        return 'expired-versions';
    }

    public function title(): string
    {
        return 'Old versions are kept';
    }

    public function reason(): string
    {
        return 'Versions nobody goes back to fill the disk.';
    }

    public function guidance(): array
    {
        return [
            'Every write leaves the version before it, so that reads go on undisturbed and one can go back. Files only old versions '
                .'need are kept until those are expired.',
            'Expire what is older than anyone would go back, keep a few for the case of a bad load.',
        ];
    }

    public function thresholds(): array
    {
        return [
            'days' => [7, 'age in days from which a version is old'],
            'keep' => [2, 'versions to keep in any case'],
            'share' => [0.2, 'share of the bytes of the table that only old versions need'],
        ];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $old = array_slice(
            array_filter(
                $table->history->versions,
                static fn (array $version): bool => $version['writtenUs'] < $case->estate->nowUs - $thresholds['days'] * 86_400e6,
            ),
            0,
            max(0, count($table->history->versions) + 1 - (int) $thresholds['keep']),
        );
        $bytes = array_sum(array_column($old, 'bytesAlone'));
        if ($bytes === 0 || $bytes < $thresholds['share'] * max(1, $table->bytes())) {
            return [];
        }

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                false,
                count($old) === 1
                    ? "An old version of {$table->name} keeps files nobody else needs"
                    : count($old)." old versions of {$table->name} keep files nobody else needs",
                [
                    ['kept for them', Quantity::bytes($bytes * $table->rowFactor)],
                    ['oldest', Quantity::duration($case->estate->nowUs - $old[0]['writtenUs']).' old'],
                ],
                0.0,
                (float) $bytes * $table->rowFactor,
                'expiry',
                [
                    "MAINTAIN TABLE {$table->path()} WITH (action = expire, days = ".
                    (int) $thresholds['days'].
                    ', keep = '.
                    (int) $thresholds['keep'].
                    ')',
                ],
            ),
        ];
    }
}
