<?php

declare(strict_types=1);

namespace App\Backup\Application;

use App\Backup\Charts\BackupFigure;
use App\Backup\Models\BackupCheck;
use App\Estate\Models\Cluster;
use App\Platform\Support\OpenFolders;
use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Backup\BackupHistory;
use Fulcrion\Core\Backup\SchemaBackups;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * What the page Backups says of a cluster.
 */
final readonly class BackupPage
{
    private const DAYS = 28;

    private const MOST_LISTED = 200;

    public function __construct(private BackupBook $book, private HeldSchemas $held)
    {
    }

    /**
     * @return array<string, mixed>
     */
    public function of(Cluster $cluster, int $nowUs, DateTimeZone $zone): array
    {
        $history = $this->book->history($cluster, $nowUs);
        $schemas = $history->backups === [] ? [] : $history->bySchema(...$this->held->of($cluster));
        $days = self::days($nowUs, $zone);
        $listed = [];
        foreach (array_reverse($history->backups, true) as $place => $one) {
            if ($one->startedUs >= $days[0] && count($listed) < self::MOST_LISTED) {
                $listed[] = [$one, $history->states[$place], OpenFolders::real($one->place) !== null];
            }
        }
        $last = BackupCheck::query()->whereIn('backup_id', DB::table('backups')->select('id')->where('cluster_id', $cluster->id))
            ->orderByDesc('id')->first();

        return [
            'schemas' => $schemas,
            'figure' => $schemas === [] ? null : BackupFigure::draw($schemas, $days, $zone),
            'listed' => $listed,
            'kept' => array_sum($history->keptBytes()),
            // One is checked at a time: it is the last one.
            'check' => $last,
            'sentence' => self::sentence($cluster, $history, $schemas),
        ];
    }

    /**
     * @return non-empty-list<int> first microseconds of the last days in a zone, ascending
     */
    private static function days(int $nowUs, DateTimeZone $zone): array
    {
        $today = (new DateTimeImmutable('@'.intdiv($nowUs, 1_000_000)))->setTimezone($zone)->setTime(0, 0);

        return array_map(static fn (int $back): int => $today->modify("-{$back} days")->getTimestamp() * 1_000_000,
            range(self::DAYS - 1, 0));
    }

    /**
     * @param  list<SchemaBackups>  $schemas
     */
    private static function sentence(Cluster $cluster, BackupHistory $history, array $schemas): string
    {
        if ($history->backups === [] || $schemas === []) {
            return "No backup of {$cluster->name} is known";
        }
        $late = array_values(array_filter($schemas, static fn (SchemaBackups $one): bool => $one->isLate()));
        $others = array_values(array_filter($schemas, static fn (SchemaBackups $one): bool => ! $one->isLate()));
        $oldest = $others === [] ? null : $others[0]->ageUs();
        $first = $late[0] ?? null;
        if ($first === null) {
            return "All of {$cluster->name} could be got back as it was ".Quantity::duration($oldest ?? 0).' ago';
        }
        $age = $first->ageUs();
        $since = $age === null ? 'has no good backup' : 'has had no good backup for '.Quantity::duration($age);
        $more = count($late) - 1;

        return "Schema {$first->schema} of {$cluster->name} {$since}".($more === 0 ? '' : ', and '.$more.' more '.($more === 1
            ? 'is' : 'are').' late').($oldest === null ? '' : '; all others could be got back as they were '.Quantity::duration($oldest)
            .' ago');
    }
}
