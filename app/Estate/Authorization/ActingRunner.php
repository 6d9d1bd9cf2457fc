<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Estate\Connectors\QueryRunner;
use App\Estate\Connectors\RewriteSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Limits\Admission;
use App\Estate\Limits\Sending;
use App\Estate\Limits\StatementGate;
use App\Estate\Models\Cluster;
use Closure;
use Fulcrion\Core\Limits\RunMeter;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Plans\PlanVeil;
use Fulcrion\Core\Proofs\Measured;

/**
 * Runs statements on a cluster in somebody's name. What a person asks is decided, rewritten and recorded first, then held where a limit
 * of theirs is reached; errors tell no value the person may not see, and plans no figure that counts rows kept from them.
 */
final readonly class ActingRunner
{
    /**
     * @param  Closure(): QueryAuthorizer  $authorizer
     * @param  Closure(): StatementGate  $gate
     */
    public function __construct(
        private Actor $actor,
        private Cluster $cluster,
        private QueryRunner $runner,
        private ?RewriteSource $rewrites,
        private Closure $authorizer,
        private Closure $gate,
    ) {
    }

    /** Whether statements that change something can be run. */
    public function changes(): bool
    {
        return $this->runner->changes();
    }

    /**
     * @return list<string> names of its functions, for completion
     */
    public function functions(): array
    {
        return $this->runner->functions();
    }

    /**
     * @param  (Closure(): bool)|null  $cancelled asked now and then
     *
     * @throws SourceError
     */
    public function run(string $sql, string $schema, ?Closure $cancelled = null): AuthorizedAnswer
    {
        return $this->decided($sql, $schema, function (AuthorizedQuery $authorized) use ($sql, $schema, $cancelled): AuthorizedAnswer {
            $result = $this->counted($sql, $authorized, $schema, function (RunMeter $meter) use ($authorized, $schema, $cancelled): array {
                $result = $this->runner->run(
                    $authorized->sql,
                    $schema,
                    $this->actor->name(),
                    $cancelled ?? static fn (): bool => false,
                    $authorized->careful,
                    $meter,
                );

                return [$result, $result->plan, $result->elapsedUs];
            });
            $plan = $result->plan === null ? null : PlanVeil::over($result->plan, $authorized->veiled);

            return new AuthorizedAnswer($result->with($plan), $plan, $authorized->notes);
        });
    }

    /**
     * The plan of a statement, with what it did where it is run.
     *
     * @param  (Closure(): bool)|null  $cancelled asked now and then
     *
     * @throws SourceError
     */
    public function plan(string $sql, string $schema, bool $run, ?Closure $cancelled = null): AuthorizedAnswer
    {
        $act = function (AuthorizedQuery $authorized) use ($sql, $schema, $run, $cancelled): AuthorizedAnswer {
            $ask = function (RunMeter $meter) use ($authorized, $schema, $run, $cancelled): array {
                $plan = $this->runner->plan(
                    $authorized->sql,
                    $schema,
                    $this->actor->name(),
                    $run,
                    $cancelled ?? static fn (): bool => false,
                    $authorized->careful,
                    $meter,
                );

                return [$plan, $plan, null];
            };
            // What is only explained uses nothing.
            $plan = $run ? $this->counted($sql, $authorized, $schema, $ask) : $ask(new RunMeter())[0];

            return new AuthorizedAnswer(null, PlanVeil::over($plan, $authorized->veiled), $authorized->notes);
        };

        return $this->decided($sql, $schema, $act);
    }

    /** Whether the planner tells which of its rewrites it used. */
    public function tellsRewrites(): bool
    {
        return $this->rewrites !== null;
    }

    /**
     * @return array<string, array{title: string, words: string, estimatedRows: float}>
     *
     * @throws SourceError
     */
    public function rewrites(string $sql, string $schema): array
    {
        return $this->figures(
            $sql,
            $schema,
            static fn (RewriteSource $source, string $allowed): array => $source->rewrites($allowed, $schema),
        );
    }

    /** @throws SourceError */
    public function estimatedRows(string $sql, string $schema): float
    {
        return $this->figures(
            $sql,
            $schema,
            static fn (RewriteSource $source, string $allowed): float => $source->estimatedRows($allowed, $schema),
        );
    }

    /**
     * What a statement reads and takes without one of the planner's rewrites.
     *
     * @throws SourceError
     */
    public function measureWithout(string $sql, string $schema, ?string $rewrite): Measured
    {
        return $this->figures($sql, $schema, fn (RewriteSource $source, string $allowed): Measured => $this->counted(
            $sql,
            new AuthorizedQuery($allowed, [], null),
            $schema,
            static function (RunMeter $meter) use ($source, $allowed, $schema, $rewrite): array {
                $measured = $source->measureWithout($allowed, $schema, $rewrite, static fn (): bool => false);
                $meter->read($measured->bytesRead);

                return [$measured, null, $measured->modelledUs];
            },
        ));
    }

    /**
     * Runs what the sender's limits leave room for, and settles what it used.
     *
     * @template T
     *
     * @param  Closure(RunMeter): array{T, Plan|null, int|null}  $work gives what it found, its plan, and how long it took
     * @return T
     */
    private function counted(string $sql, AuthorizedQuery $authorized, string $schema, Closure $work): mixed
    {
        $admission = $this->admission($sql, $authorized, $schema);
        $start = hrtime(true);
        try {
            [$found, $plan, $tookUs] = $work($admission->meter);
        } catch (SourceError $error) {
            $admission->settle($admission->meter->bytes(), $this->elapsedUs($start));
            throw $admission->stopped() ?? $error;
        } catch (\Throwable $error) {
            $admission->settle($admission->meter->bytes(), $this->elapsedUs($start));
            throw $error;
        }
        $totals = $plan !== null && $plan->actual && $plan->modelled ? PlanTotals::of($plan) : null;
        $admission->settle(
            $totals->bytesScanned ?? $admission->meter->bytes(),
            $totals->durationUs ?? $tookUs ?? $this->elapsedUs($start),
        );

        return $found;
    }

    private function admission(string $sql, AuthorizedQuery $authorized, string $schema): Admission
    {
        $sender = $this->actor->sender;

        return $sender === null ? new Admission(new RunMeter()) : ($this->gate)()->admit(new Sending(
            $sender->to($this->cluster->slug),
            $this->cluster,
            $sql,
            fn (): ?StatementEstimate => $this->runner->estimate(
                $authorized->sql,
                $schema,
                $this->actor->name(),
                $authorized->careful,
            ),
            $this->actor->isKept || $this->cluster->isLive(),
            $authorized->veiled !== [],
        ));
    }

    private function elapsedUs(int|float $startNs): int
    {
        return intdiv((int) hrtime(true) - (int) $startNs, 1000);
    }

    /**
     * Figures of the planner count rows before they are filtered, so they are told of tables only that are open wholly.
     *
     * @template T
     *
     * @param  Closure(RewriteSource, string): T  $ask
     * @return T
     */
    private function figures(string $sql, string $schema, Closure $ask): mixed
    {
        $source = $this->rewrites ?? throw new SourceError("{$this->cluster->name} does not tell what its planner does.");

        return $this->decided($sql, $schema, static function (AuthorizedQuery $authorized) use ($source, $ask): mixed {
            if ($authorized->veiled !== []) {
                throw new SourceError(
                    'You see '.
                        implode(' and ', $authorized->veiled).
                        ' in part only, and what the planner counts there would tell of the rest.',
                );
            }

            return $ask($source, $authorized->sql);
        });
    }

    /**
     * @template T
     *
     * @param  Closure(AuthorizedQuery): T  $ask
     * @return T
     */
    private function decided(string $sql, string $schema, Closure $ask): mixed
    {
        $person = $this->actor->person;
        $authorized =
            $person === null
                ? new AuthorizedQuery($sql, [], null)
                : ($this->authorizer)()->pass($person, $this->cluster, $schema, $sql, $this->actor->reason);
        try {
            return $ask($authorized);
        } catch (SourceError $error) {
            if ($error->sealed !== null && $authorized->decision !== null) {
                ($this->authorizer)()->seal($authorized->decision, $error->sealed);
            }
            // Who sees all that was read may see the value that was to blame; a place in a rewritten text means nothing.
            $told = $authorized->veiled === [] && $person !== null ? $error->sealed ?? $error->getMessage() : $error->getMessage();
            throw new SourceError(
                $told,
                $authorized->sql === $sql ? $error->offset : null,
                $error->stopped,
                $error->decision ?? $authorized->decision,
                limit: $error->limit,
            );
        }
    }
}
