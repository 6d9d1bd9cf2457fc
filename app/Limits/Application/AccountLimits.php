<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\AccessSource;
use App\Estate\Connectors\ServerAccount;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Models\User;
use App\Platform\Runs\Progress;
use Fulcrion\Core\Proofs\Check;

/**
 * Writes the limits a live server has for its accounts, and proves them: a test user is held to the same ones and runs into them.
 */
final readonly class AccountLimits implements ChangeExecutor
{
    public const KIND = 'account-limits';

    /** What its proofs consist of. */
    public const BODY = 'limited';

    public function __construct(private Clusters $clusters, private Changes $changes)
    {
    }

    /** A server whose accounts can be limited from here; null where it takes none. */
    public function server(Cluster $cluster): ?AccessSource
    {
        return $this->clusters->as(Actor::system(SystemActor::Meter, 'limits of accounts'))->access($cluster);
    }

    /**
     * @param  float|null  $seconds a statement may take; null for any time
     * @param  int|null  $queries in an hour; null for any number
     *
     * @throws SourceError
     */
    public function propose(Cluster $cluster, string $name, ?float $seconds, ?int $queries, User $user): Change
    {
        $accounts = $this->named($this->source($cluster), $name);
        if ($accounts === []) {
            throw new SourceError("There is no account {$name} on {$cluster->name}.");
        }
        $different = array_values(array_filter($accounts, static fn (ServerAccount $one): bool => $one->statementSeconds !== $seconds
            || $one->queriesPerHour !== $queries));
        if ($different === []) {
            throw new SourceError("{$cluster->name} holds {$name} to these limits already.");
        }

        return $this->changes->propose($cluster, null, new Proposal(
            "account {$name}",
            "Limit the account {$name} on {$cluster->name}: ".self::said($seconds, $queries),
            self::KIND,
            array_map(static fn (ServerAccount $one): string => $one->altered($seconds, $queries), $different),
            Inverse::statements(array_map(
                static fn (ServerAccount $one): string => $one->altered($one->statementSeconds, $one->queriesPerHour),
                $different,
            )),
            0.0,
            0.0,
            0.0,
            0.0,
            ['The server counts all queries of an account, those its driver sends as well, and refuses them by its own words.'],
            [],
        ), $user);
    }

    public static function said(?float $seconds, ?int $queries): string
    {
        return implode(' and ', [
            $seconds === null ? 'any time for a statement' : ServerAccount::seconds($seconds).' s for a statement',
            $queries === null ? 'any number of queries' : "{$queries} queries an hour",
        ]);
    }

    public function prepare(Change $change, Proposal $proposal): void
    {
        // Its steps and their inverse are known when it is proposed.
    }

    public function rehearse(Change $change, string $by, Progress $progress): void
    {
        $progress->tell('signing in as a test user with the same limits', 0.3);
        [$seconds, $queries] = self::wanted($change);
        $lines = $this->source($change->cluster)->tryLimits($seconds, $queries);
        $this->keep($change, 'rehearsal', $lines, $by, 'a test user with the same limits; the account itself was not touched');
    }

    public function apply(Change $change, string $by, Progress $progress): void
    {
        $source = $this->source($change->cluster);
        $progress->tell('limiting the account', 0.2);
        try {
            $source->apply($change->sealed_steps);
            [$seconds, $queries] = self::wanted($change);
            $lines = [];
            foreach ($this->named($source, self::account($change)) as $one) {
                $lines[] = Check::line(
                    "limits of {$one->name} from {$one->host}, as the server says them",
                    self::said($seconds, $queries),
                    self::said($one->statementSeconds, $one->queriesPerHour),
                );
            }
            $progress->tell('signing in as a test user with the same limits', 0.5);
            $lines = [...$lines, ...$source->tryLimits($seconds, $queries)];
        } catch (SourceError $error) {
            $source->apply($change->sealed_inverse);
            throw $error;
        }
        $this->keep($change, 'applied', $lines, $by, 'the limits were read back, and a test user with the same ones ran into them');
    }

    public function undo(Change $change, string $by, Progress $progress): void
    {
        $progress->tell('giving the account its former limits', 0.5);
        $this->source($change->cluster)->apply($change->sealed_inverse);
    }

    public function withdraw(Change $change, ChangeAction $action): string
    {
        return '';
    }

    public function recover(Change $change, ChangeAction $action): string
    {
        return 'The worker was killed. Each account was limited wholly or not at all; propose it again to see what is left to do.';
    }

    /**
     * @param  list<array{what: string, expected: string, got: string, holds: bool}>  $lines
     */
    private function keep(Change $change, string $kind, array $lines, string $by, string $how): void
    {
        $held = Check::held($lines);
        ProofRecord::keepChecks($change, $kind, self::BODY, $lines, $by, "{$held} of ".count($lines).' checks with a test user held',
            ['where' => $change->cluster->name, 'how' => $how]);
        if ($held < count($lines) && $kind === 'applied') {
            throw new SourceError('A limit did not hold for the test user; see the proof. The account is limited: undo the change.');
        }
    }

    /**
     * @return list<ServerAccount>
     *
     * @throws SourceError
     */
    private function named(AccessSource $source, string $name): array
    {
        return array_values(array_filter($source->limited(), static fn (ServerAccount $one): bool => $one->name === $name));
    }

    private static function account(Change $change): string
    {
        return substr($change->object, strlen('account '));
    }

    /**
     * What its statements say.
     *
     * @return array{float|null, int|null}
     */
    private static function wanted(Change $change): array
    {
        preg_match('~MAX_STATEMENT_TIME ([\d.]+) MAX_QUERIES_PER_HOUR (\d+)$~D', $change->sealed_steps[0] ?? '', $match);
        [$seconds, $queries] = [(float) ($match[1] ?? 0), (int) ($match[2] ?? 0)];

        return [$seconds > 0 ? $seconds : null, $queries > 0 ? $queries : null];
    }

    private function source(Cluster $cluster): AccessSource
    {
        return $this->server($cluster) ??
            throw new SourceError("{$cluster->name} takes no limits: it keeps no accounts that could be written from here.");
    }
}
