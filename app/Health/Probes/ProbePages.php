<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use App\Health\Charts\ProbeFigure;
use App\Platform\Models\User;
use DateTimeZone;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;

/**
 * Makes the page of an answer.
 */
final readonly class ProbePages
{
    private const SHOWN = 7 * 86_400;

    /** What came after the moment says how it went on. */
    private const AFTER = 43_200;

    private const ACCOUNTS = 28 * 86_400;

    private const MOST_ACCOUNTS = 300;

    public function __construct(private SystemQuestion $question, private ProbeBook $probes)
    {
    }

    public function of(
        Cluster $cluster,
        int $at,
        ?string $statement,
        ?string $account,
        int $now,
        DateTimeZone $zone,
    ): ProbePage {
        $answer = $this->question->ask($cluster, $at, $statement, $account, $zone);
        $probe = $this->probes->of($cluster);
        $to = min($now, $at + self::AFTER);
        $window = Window::around($to - self::SHOWN, $to);
        $took = array_filter(array_map(static fn (ProbeRun $run): ?int => $run->tookUs, $answer->scale->runs ?? []),
            static fn (?int $us): bool => $us !== null);

        return new ProbePage(
            $answer,
            $answer->scale === null ? null : ProbeFigure::draw($answer->scale, $window, $to, $at, $zone),
            $probe,
            $this->accounts($cluster, $now),
            $answer->fingerprint === null ? null : DB::table('statements')->where('fingerprint', $answer->fingerprint)->value('text'),
            $took === [] ? null : array_sum($took) / count($took),
            $probe === null ? null : User::query()->whereKey($probe->userId)->value('name'),
        );
    }

    /**
     * @return list<string>
     */
    private function accounts(Cluster $cluster, int $now): array
    {
        return array_values(DB::table('load_by_origin_hour as l')->join('origins as o', 'o.id', '=', 'l.origin_id')
            ->where('l.cluster_id', $cluster->id)->where('l.bucket_at', '>=', $now - self::ACCOUNTS)->where('o.user_name', '<>', '')
            ->distinct()->orderBy('o.user_name')->limit(self::MOST_ACCOUNTS)->pluck('o.user_name')
            ->map(static fn (mixed $name): string => (string) $name)->all());
    }
}
