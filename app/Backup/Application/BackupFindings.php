<?php

declare(strict_types=1);

namespace App\Backup\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupState;
use Fulcrion\Core\Backup\SchemaBackups;
use Fulcrion\Core\Text\Quantity;

/**
 * Schemas without a good backup of late, and backups that are damaged.
 */
final readonly class BackupFindings
{
    public const SOURCE = 'backups';

    /** From so long on it is more than one night that went wrong. */
    private const ACT_US = 7 * 86_400_000_000;

    public function __construct(private Findings $findings, private BackupBook $book, private HeldSchemas $held)
    {
    }

    public function report(Cluster $cluster, int $nowUs): void
    {
        $history = $this->book->history($cluster, $nowUs);
        $reported = $newestUs = [];
        // Where nobody tells of backups at all, nobody is told that they are missing.
        foreach ($history->backups === [] ? [] : $history->bySchema(...$this->held->of($cluster)) as $schema) {
            $newestUs[$schema->schema] = $schema->newest()->startedUs ?? 0;
            if ($schema->isLate()) {
                $reported[] = self::late($schema);
            }
        }
        foreach ($history->backups as $place => $backup) {
            if ($history->states[$place] === BackupState::Damaged) {
                $reported[] = self::damaged($backup, $newestUs);
            }
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    private static function late(SchemaBackups $schema): Reported
    {
        $newest = $schema->newest();
        $age = $schema->ageUs();
        $tried = $schema->lastTried();
        $bad = $schema->badSince();

        return new Reported(
            'no-good-backup',
            FindingSubject::item("backup of {$schema->schema}"),
            Severity::of($age === null || $age >= self::ACT_US),
            "Schema {$schema->schema} has ".($age === null ? 'no good backup' : 'had no good backup for '.Quantity::duration($age)),
            [
                new Evidence('newest good backup', $newest === null ? 'none is known' : self::at($newest)),
                new Evidence('usual', 'one every '.Quantity::duration($schema->usualUs())),
                new Evidence('since then', $bad === 0 ? 'none was tried' : ($bad === 1 ? 'one backup that is not good' : "{$bad} backups, "
                    .'none of them good')),
                ...($tried === null ? [] : [new Evidence('the last one', self::at($tried).': '.($tried->failure ?? ($tried->damage[0]
                    ?? BackupState::Baseless->said())))]),
                Evidence::remedy($tried?->failure !== null
                    ? 'Correct what the last one failed by, take one by hand, and check it here.'
                    : 'Take a full backup of this schema and check it here.'),
            ],
            Weight::none(),
            '',
            urgent: $age === null || $age >= self::ACT_US,
        );
    }

    /**
     * @param  array<array-key, int>  $newestUs when the newest good backup of each schema began; 0 where there is none
     */
    private static function damaged(Backup $backup, array $newestUs): Reported
    {
        $without = array_filter($backup->schemas, static fn (string $name): bool => $newestUs[$name] < $backup->startedUs);
        $count = count($backup->damage);

        return new Reported(
            'damaged-backup',
            FindingSubject::item('backup '.mb_strcut($backup->plan, 0, 120).' '.gmdate('Y-m-d H:i', intdiv($backup->startedUs, 1_000_000))),
            Severity::of($without !== []),
            "The backup “{$backup->plan}” of ".moment($backup->startedUs, MomentStyle::ShortDay, new DateTimeZone('UTC')).' is damaged: '
                .mb_strimwidth($backup->damage[0] ?? '', 0, 120, '…').($count > 1 ? ' and '.($count - 1).' more' : ''),
            [
                new Evidence('began', self::at($backup)),
                new Evidence('holds', implode(', ', array_slice($backup->schemas, 0, 10))),
                new Evidence('checked', moment($backup->checkedUs, MomentStyle::Minute, new DateTimeZone('UTC')).' UTC'),
                ...array_map(static fn (string $one): Evidence => new Evidence('found', $one), array_slice($backup->damage, 0, 10)),
                Evidence::remedy($without === []
                    ? 'Newer backups of its schemas are good. Find out whether other files on the same disk or way are damaged, check the '
                        .'backups beside it, and remove this one when nothing builds on it.'
                    : 'It is the newest of '.implode(', ', array_slice($without, 0, 10)).': take another one now, then find out what '
                        .'damaged it.'),
            ],
            Weight::none(),
            '',
        );
    }

    private static function at(Backup $backup): string
    {
        return moment($backup->startedUs, MomentStyle::Minute, new DateTimeZone('UTC')).' UTC, “'.mb_strcut($backup->plan, 0, 120).'”';
    }
}
