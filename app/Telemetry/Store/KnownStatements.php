<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use Fulcrion\Core\Sql\BoundText;
use Illuminate\Contracts\Encryption\Encrypter;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * What is known of single statements, and the last text that was seen of them.
 */
final readonly class KnownStatements
{
    public function __construct(private Encrypter $encrypter)
    {
    }

    /**
     * @return stdClass|null id, fingerprint, kind, text, and of the cluster first_us, last_us, facts
     */
    public function find(string $fingerprint, int $clusterId): ?stdClass
    {
        $row = DB::table('statements')
            ->leftJoin('statement_presence', static function ($join) use ($clusterId): void {
                $join->on('statement_presence.statement_id', '=', 'statements.id')->where('statement_presence.cluster_id', '=', $clusterId);
            })
            ->where('fingerprint', $fingerprint)
            ->first(['statements.id', 'fingerprint', 'kind', 'text', 'first_us', 'last_us', 'facts']);

        return $row;
    }

    /**
     * The latest sample, its binds put in their places.
     *
     * @return array<string, mixed>|null fields of an execution record; null where none is kept
     */
    public function latestSample(int $clusterId, int $statementId): ?array
    {
        $row = DB::selectOne('SELECT sealed FROM samples WHERE cluster_id = ? AND statement_id = ? ORDER BY hour_at DESC LIMIT 1', [
            $clusterId,
            $statementId,
        ]);
        if ($row === null) {
            return null;
        }
        $samples = SampleSeal::open($this->encrypter, $row->sealed);
        usort($samples, static fn (array $a, array $b): int => $b['started_at_us'] <=> $a['started_at_us']);
        $sample = $samples[0] ?? null;
        if ($sample !== null && is_array($sample['binds'] ?? null)) {
            $sample['sql'] = BoundText::fill((string) $sample['sql'], $sample['binds']);
        }

        return $sample;
    }
}
