<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use App\Estate\Connectors\SourceError;
use App\Estate\Limits\Sending;
use App\Estate\Limits\StatementGate;
use App\Estate\Models\Cluster;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitState;
use Closure;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Tools\Forks;
use Illuminate\Support\Facades\DB;

/**
 * Sixteen processes that send statements at one limit: how many are decided in a second, and how far the limit is passed.
 */
final class LimitGuardBench implements Measurement
{
    private const PROCESSES = 16;

    private const EACH = 250;

    /** Of what all of them would send. */
    private const SHARE = 0.6;

    /** Bytes a statement is expected to read at most; what it reads lies below. */
    private const EXPECTED = 1_000_000;

    private const DECISIONS_AIM = 500.0;

    public function __construct(private readonly LimitBook $book)
    {
    }

    public function name(): string
    {
        return 'limit-guard';
    }

    public function run(Closure $say): iterable
    {
        Scratch::fresh();
        $cluster = Cluster::query()->create([
            'slug' => 'bench', 'name' => 'Bench', 'role' => 'rehearsal', 'connector' => 'files', 'dialect' => Dialect::Ansi,
        ]);
        $all = self::PROCESSES * self::EACH;

        $say(self::PROCESSES.' processes count nothing');
        [, $free] = $this->send($cluster, 'nobody', 0);
        yield BenchFigure::of('decided in a second where nobody has a limit', $free, 'decisions');

        $say(self::PROCESSES.' processes at a limit of executions');
        $most = (int) (self::SHARE * $all);
        $executions = $this->limit(LimitMeasure::Executions, 'counted', $most);
        [$admitted, $decided] = $this->send($cluster, 'counted', 0);
        yield BenchFigure::atLeast('decided in a second, let in or held', $decided, self::DECISIONS_AIM, 'decisions');
        yield BenchFigure::of('let in, of '.$most, (float) array_sum($admitted), 'statements');
        yield BenchFigure::atMost('executions beyond the limit', (float) max(0, $this->used($executions) - $most), 0.0, 'executions');

        $say(self::PROCESSES.' processes at a limit of bytes');
        // Half of what is expected is read on average, so that more are let in than what is reserved would say.
        $bytes = (int) (self::SHARE * $all * self::EXPECTED / 2);
        $limit = $this->limit(LimitMeasure::Bytes, 'weighed', $bytes);
        [$admitted, $decided] = $this->send($cluster, 'weighed', self::EXPECTED);
        yield BenchFigure::atLeast('decided in a second by bytes', $decided, self::DECISIONS_AIM, 'decisions');
        yield BenchFigure::of('let in by bytes', (float) array_sum($admitted), 'statements');
        $beyond = max(0, $this->used($limit) - $bytes);
        yield BenchFigure::of('beyond the limit, of what ran already', $beyond / 1e6, 'MB');
        // Nobody reads more than was reserved, so the last one let in can pass it, and nobody after that.
        yield BenchFigure::atMost('beyond the limit besides that', max(0, $beyond - self::EXPECTED) / 1e6, 0.0, 'MB');
        yield BenchFigure::atMost('left reserved when all is over', (float) DB::table('limit_counters')->sum('reserved'), 0.0, 'bytes');
        yield BenchFigure::of('decided in a second beside one bare counter', $decided / $this->bare(), 'times');
    }

    private function limit(LimitMeasure $measure, string $login, int $amount): int
    {
        $id = $this->book->add(
            new Limit($measure, ScopeKind::Person, $login, LimitPeriod::Month, $amount, [new Threshold(100, Act::Hold)]),
            '',
            null,
            null,
            '',
            'bench',
        );
        $this->book->switch($id, LimitState::On);

        return $id;
    }

    private function used(int $id): int
    {
        return (int) DB::table('limit_counters')->where('limit_id', $id)->selectRaw('settled + apart AS used')->value('used');
    }

    /**
     * @return array{list<int>, float} let in by process, and decisions in a second of all of them
     */
    private function send(Cluster $cluster, string $login, int $expected): array
    {
        $began = hrtime(true);
        $admitted = Forks::run(self::PROCESSES, static function (int $process) use ($cluster, $login, $expected): int {
            mt_srand($process);
            $gate = app(StatementGate::class);
            $in = 0;
            for ($i = 0; $i < self::EACH; $i++) {
                try {
                    $admission = $gate->admit(new Sending(
                        (new Sender($login, 'bench'))->to($cluster->slug),
                        $cluster,
                        'SELECT 1',
                        static fn (): StatementEstimate => new StatementEstimate($expected, 0),
                    ));
                    $in++;
                    $admission->settle($expected === 0 ? 0 : mt_rand(0, $expected), 0);
                } catch (SourceError) {
                    // It was held.
                }
            }

            return $in;
        });

        return [$admitted, self::PROCESSES * self::EACH / ((hrtime(true) - $began) / 1e9)];
    }

    /** Updates of one row by as many processes, which nothing that counts exactly in this database can beat. */
    private function bare(): float
    {
        DB::statement('CREATE TABLE IF NOT EXISTS bare_counter (id INT PRIMARY KEY, used BIGINT UNSIGNED NOT NULL)');
        DB::statement('INSERT IGNORE INTO bare_counter VALUES (1, 0)');
        $began = hrtime(true);
        Forks::run(self::PROCESSES, static function (int $process): int {
            for ($i = 0; $i < self::EACH; $i++) {
                DB::statement('UPDATE bare_counter SET used = used + 1 WHERE id = 1');
            }

            return $process;
        });

        return self::PROCESSES * self::EACH / ((hrtime(true) - $began) / 1e9);
    }
}
