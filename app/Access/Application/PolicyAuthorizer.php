<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Access\Models\DecisionRecord;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\AuthorizedQuery;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\QueryAuthorizer;
use App\Estate\Authorization\SystemActor;
use App\Estate\Authorization\TableVisibility;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Catalog\HelperName;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * Lets pass what the policy in force allows. Only stewards, who make the policy, and owners, who name the stewards, run
 * statements as they are written; that they did is recorded as well. Objects that changes keep and build are nobody's.
 */
final readonly class PolicyAuthorizer implements QueryAuthorizer
{
    public function __construct(
        private PolicyStore $store,
        private Decisions $decisions,
        private Ledger $ledger,
        private Clusters $clusters,
    ) {
    }

    public function pass(User $user, Cluster $cluster, string $schema, string $sql, string $source): AuthorizedQuery
    {
        $policy = $this->policy();
        $names = $this->names($cluster, $schema, $sql);
        if ($cluster->isLive() && $names !== null && ! $this->governs($policy, $cluster, $names)) {
            // No policy speaks of these schemas: the server decides by the grants of the account it is watched with.
            return new AuthorizedQuery($sql, [], null);
        }
        $subject = Decisions::subjectOf($user);
        $decision = $this->decisions->decide($policy, $subject, $cluster, $schema, $sql);
        if ($decision->error !== null && str_contains($decision->error, 'There is no table')) {
            // It may have been made a moment ago.
            $this->store->forget();
            $policy = $this->policy();
            $decision = $this->decisions->decide($policy, $subject, $cluster, $schema, $sql);
        }
        $free = self::isFree($user);
        $number = $this->store->number();
        $reasons = $this->decisions->reasons($policy, $subject, $decision);
        $id = $this->decisions->keep(
            $user,
            $subject,
            $cluster,
            $free ? "{$source} as {$user->role->value}" : $source,
            $number,
            false,
            $decision,
            $reasons,
        );
        // The record of the decision says why; that it was made is part of the chain nobody can alter.
        $this->ledger->record($user, $free || $decision->isAllowed() ? 'asked a cluster' : 'was refused by the policy', $cluster->name, [
            'decision' => $id,
            'outcome' => $decision->outcome(),
            'policy' => $number,
        ]);
        foreach ($names ?? [] as [$inSchema, $table]) {
            if (HelperName::is($inSchema, $table)) {
                throw new SourceError(
                    "There is no table {$inSchema}.{$table} here for anybody: such names belong to changes, which keep and build tables "
                        .'under them.',
                    null,
                    false,
                    $id,
                );
            }
        }
        if ($free) {
            return new AuthorizedQuery($sql, [], $id);
        }
        if ($decision->error !== null) {
            throw $this->mistake($cluster, $schema, $sql) ?? new SourceError($decision->error, $decision->errorAt);
        }
        if ($decision->rewritten === null) {
            throw new SourceError('Access is refused. '.$decision->sentence(), decision: $id, refused: true);
        }
        if ($cluster->isLive() && $decision->rewritten !== $sql) {
            throw new SourceError(
                "Access is refused: the policy shows {$cluster->name} to you in part only. Sign in there and use the views written out "
                    .'for your role.',
                decision: $id,
                refused: true,
            );
        }

        return new AuthorizedQuery($decision->rewritten, $decision->notes, $id, $decision->veiled(), $decision->isNarrowed());
    }

    public function visibility(User $user, Cluster $cluster): TableVisibility
    {
        return new PolicyVisibility($this->policy(), Decisions::subjectOf($user), $cluster, self::isFree($user));
    }

    public function seal(int $decision, string $text): void
    {
        DecisionRecord::query()
            ->whereKey($decision)
            ->first()
            ?->update(['sealed_error' => mb_strcut($text, 0, 20_000)]);
    }

    /**
     * @return list<array{string, string}>|null schema and table of all a statement names; null when it cannot be read
     */
    private function names(Cluster $cluster, string $schema, string $sql): ?array
    {
        try {
            $found = TableNames::of((new Parser($cluster->dialect))->statement($sql));
        } catch (SyntaxError) {
            return null;
        }

        return array_map(
            static fn (array $parts): array => TableNames::resolve($parts, $schema) ?? ['', strtolower($parts[0] ?? '')],
            $found,
        );
    }

    /**
     * @param  list<array{string, string}>  $names
     */
    private function governs(Policy $policy, Cluster $cluster, array $names): bool
    {
        foreach ($names as [$schema]) {
            if ($schema === '' || $policy->catalog->below(ObjectPath::of([$cluster->slug, $schema])) !== []) {
                return true;
            }
        }

        return false;
    }

    /** Of a name that leads nowhere the cluster says it best, with what may have been meant. Nothing is run for it. */
    private function mistake(Cluster $cluster, string $schema, string $sql): ?SourceError
    {
        try {
            $this->clusters
                ->as(Actor::system(SystemActor::Policy, 'what a name that is not there may mean'))
                ->runner($cluster)
                ?->plan($sql, $schema, false);
        } catch (SourceError $error) {
            return $error->offset === null ||
                preg_match('~__(?:kept|new|back|undone)_\d|\b(?:rehearsal|tuning|trial)_\d~', $error->getMessage()) === 1
                ? null
                : $error;
        }

        return null;
    }

    private static function isFree(User $user): bool
    {
        return $user->role === Role::Steward || $user->role === Role::Owner;
    }

    private function policy(): Policy
    {
        return $this->store->compile($this->store->published());
    }
}
