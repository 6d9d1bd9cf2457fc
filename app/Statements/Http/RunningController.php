<?php

declare(strict_types=1);

namespace App\Statements\Http;

use App\Estate\Connectors\MariaDbSource;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Statements\Application\RunningNow;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use PDOException;

final readonly class RunningController
{
    public function __construct(private RunningNow $running)
    {
    }

    public function show(Request $request): View
    {
        $live = Cluster::query()->where('connector', 'mariadb')->orderByDesc('is_own')->orderBy('name')->get();
        $cluster = Cluster::chosen($live, $request->query('cluster'));
        $rows = [];
        $error = null;
        if ($cluster !== null) {
            try {
                $rows = $this->running->on($cluster);
            } catch (PDOException $exception) {
                $error = MariaDbSource::clean($exception);
            }
        }
        $known = DB::table('statements')
            ->whereIn('fingerprint', array_map(static fn (array $row): string => $row[1]->id, $rows))
            ->pluck('fingerprint')
            ->flip()
            ->all();
        $data = [
            'known' => $known,
            'live' => $live,
            'cluster' => $cluster,
            'rows' => $rows,
            'error' => $error,
            'at' => Clock::seconds(),
            'sentence' => self::sentence($cluster, $rows, $error),
        ];

        return $request->header('HX-Request') !== null ? view('statements.running-now', $data) : view('statements.running', $data);
    }

    /**
     * @param  list<array{\App\Estate\Connectors\RunningStatement, \Fulcrion\Core\Sql\Fingerprint}>  $rows
     */
    private static function sentence(?Cluster $cluster, array $rows, ?string $error): string
    {
        return match (true) {
            $cluster === null => 'No live server is connected',
            $error !== null => "{$cluster->name} does not answer",
            $rows === [] => "Nothing runs on {$cluster->name} at this moment",
            default => count($rows).
                (count($rows) === 1 ? ' statement runs' : ' statements run').
                " on {$cluster->name}, the oldest for ".
                Quantity::duration($rows[0][0]->runningUs),
        };
    }
}
