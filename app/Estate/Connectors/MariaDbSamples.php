<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use App\Platform\Support\ThrowingPdo;
use PDO;
use PDOException;

/**
 * Stages and waits of a MariaDB's sessions as its performance schema has them at a moment. Of a statement only its first word is read.
 */
final class MariaDbSamples implements SampleSource
{
    private const SECONDS = 2;

    private const SQL = "SELECT COALESCE(t.PROCESSLIST_USER, 'the server itself'), COALESCE(t.PROCESSLIST_COMMAND, ''), "
        ."COALESCE(UPPER(REGEXP_SUBSTR(LEFT(t.PROCESSLIST_INFO, 100), '[A-Za-z]+')), ''), COALESCE(t.PROCESSLIST_STATE, ''), "
        ."COALESCE(w.EVENT_NAME, '') FROM performance_schema.threads t LEFT JOIN performance_schema.events_waits_current w "
        .'ON w.THREAD_ID = t.THREAD_ID AND w.END_EVENT_ID IS NULL '
        ."WHERE t.PROCESSLIST_ID <> CONNECTION_ID() AND t.PROCESSLIST_COMMAND NOT IN ('Sleep', 'Daemon') LIMIT 500";

    private ?ThrowingPdo $connection = null;

    public function __construct(private readonly Cluster $cluster)
    {
    }

    public function sample(): array
    {
        try {
            $this->connection ??= MariaDbSource::watching($this->cluster, self::SECONDS);
            $rows = $this->connection->query(self::SQL)->fetchAll(PDO::FETCH_NUM);
        } catch (PDOException $exception) {
            throw new SourceError(MariaDbSource::clean($exception));
        }

        $samples = [];
        foreach ($rows as $row) {
            $frames = [(string) $row[0], (string) ($row[2] !== '' ? $row[2] : $row[1]), $row[3] === '' ? 'no stage is told'
                : (string) $row[3]];
            if ($row[4] !== '') {
                $frames[] = (string) $row[4];
            }
            $samples[] = $frames;
        }

        return $samples;
    }
}
