<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\AccessSource;
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
use App\Platform\Support\Clock;
use Closure;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Provisioning\MariaDbScript;
use Fulcrion\Core\Access\Provisioning\ProvisionedRole;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Printer;
use Illuminate\Support\Str;

/**
 * Writes the policy out to a server, and proves it: a test user signs in with each role and selects, and what it gets is
 * compared with what the policy says, row by row.
 */
final readonly class Provisioner implements ChangeExecutor
{
    /** A policy written out to a server as its roles, grants and views. */
    public const ACCESS = 'access';

    /** A policy that was published: rehearsed, applied and proved in one act. */
    public const POLICY = 'policy';

    public function __construct(
        private Clusters $clusters,
        private PolicyStore $store,
        private Publisher $publisher,
        private Changes $changes,
    ) {
    }

    public function prepare(Change $change, Proposal $proposal): void
    {
        // Its steps and their inverse are known when it is proposed.
    }

    /**
     * @return array{statements: list<string>, inverse: list<string>, roles: array<string, ProvisionedRole>, limits: list<string>,
     *     strangers: list<string>}
     *
     * @throws SourceError
     */
    public function plan(Cluster $cluster): array
    {
        $source = $this->source($cluster);
        $script = new MariaDbScript($this->policy(), $cluster->slug, $source->hashKey());
        $roles = $script->roles();
        $accounts = $source->accounts();
        $written = $source->written();
        $people = array_merge([], ...array_map(static fn (ProvisionedRole $role): array => $role->people, array_values($roles)));

        return [
            'statements' => MariaDbScript::statements($written, $roles, $accounts),
            'inverse' => MariaDbScript::statements($roles, $written, $accounts),
            'roles' => $roles,
            'limits' => $script->limits(),
            'strangers' => array_values(array_filter(array_unique($people), static fn (string $person): bool =>
                ! isset($accounts[$person]))),
        ];
    }

    /** @throws SourceError */
    public function propose(Cluster $cluster, User $user): Change
    {
        $plan = $this->plan($cluster);
        if ($plan['statements'] === []) {
            throw new SourceError("{$cluster->name} already says what the policy says.");
        }
        $number = $this->store->number();

        return $this->changes->propose(
            $cluster,
            null,
            new Proposal(
                'access',
                "Write policy version {$number} out to {$cluster->name}: ".count($plan['roles']).' roles',
                self::ACCESS,
                $plan['statements'],
                Inverse::statements($plan['inverse']),
                0.0,
                0.0,
                0.0,
                0.0,
                $plan['limits'],
                [],
            ),
            $user,
        );
    }

    public function rehearse(Change $change, string $by, Progress $progress): void
    {
        if ($change->kind === self::POLICY) {
            throw new SourceError('A policy is rehearsed as a draft.');
        }
        $source = $this->source($change->cluster);
        $script = new MariaDbScript($this->policy(), $change->cluster->slug, $source->hashKey());
        // The same under other names, given to nobody: real accounts notice nothing.
        $trial = [];
        foreach ($script->roles() as $role) {
            $swap = static fn (string $text): string => str_replace('guard_', 'guard_t_', $text);
            $views = [];
            foreach ($role->views as $view => $text) {
                $views[$swap($view)] = $text;
            }
            $lines = array_map($swap, array_values($role->grants));
            $trial[$swap($role->name)] = new ProvisionedRole($swap($role->name), [], array_combine($lines, $lines), $views);
        }
        try {
            $progress->tell('making the roles and views under names of a trial', 0.1);
            $source->apply(MariaDbScript::statements([], $trial, []));
            $lines = $this->verify(
                $change->cluster,
                $source,
                $script->roles(),
                static fn (string $name): string => str_replace('guard_', 'guard_t_', $name),
                $progress,
            );
        } finally {
            $source->apply(MariaDbScript::statements($trial, [], []));
        }
        $this->keep($change, 'rehearsal', $lines, $by, 'under names of a trial, which are gone again');
    }

    public function apply(Change $change, string $by, Progress $progress): void
    {
        $source = $this->source($change->cluster);
        $roles = (new MariaDbScript($this->policy(), $change->cluster->slug, $source->hashKey()))->roles();
        $progress->tell('making roles, views and grants', 0.2);
        try {
            $source->apply($change->sealed_steps);
        } catch (SourceError $error) {
            // What was there before is there again, whatever the statement was that failed.
            foreach ($change->sealed_inverse as $sql) {
                try {
                    $source->apply([$sql]);
                } catch (SourceError) {
                    // It was not made yet.
                }
            }
            throw $error;
        }
        $lines = $this->verify($change->cluster, $source, $roles, static fn (string $name): string => $name, $progress);
        $this->keep($change, 'applied', $lines, $by, 'on the server itself');
    }

    public function undo(Change $change, string $by, Progress $progress): void
    {
        if ($change->kind === self::POLICY) {
            $user =
                User::query()->find($change->acting_id) ??
                throw new SourceError('Whoever asked for this has no account any more. Ask for it again.');
            $this->publisher->restore((int) ($change->expected['version'] ?? 1) - 1, $user, 'Undone: '.$change->title);
        } else {
            $progress->tell('taking roles, views and grants back', 0.5);
            $this->source($change->cluster)->apply($change->sealed_inverse);
        }
    }

    public function withdraw(Change $change, ChangeAction $action): string
    {
        return '';
    }

    public function recover(Change $change, ChangeAction $action): string
    {
        return 'The worker was killed. Each statement was run wholly or not at all; propose it again to see what is left to do.';
    }

    /**
     * Signs in with each role and holds what it gets against what the policy says.
     *
     * @param  array<string, ProvisionedRole>  $roles
     * @param  Closure(string): string  $named
     * @return list<array{role: string, people: int, object: string, expected: string, got: string, holds: bool}>
     */
    private function verify(Cluster $cluster, AccessSource $source, array $roles, Closure $named, Progress $progress): array
    {
        $policy = $this->policy();
        $printer = new Printer(Dialect::MariaDb);
        $lines = [];
        $done = 0;
        foreach ($roles as $role) {
            $progress->tell("signing in with {$role->name}", 0.3 + (0.6 * $done++) / count($roles));
            $selects = $expected = $closed = [];
            foreach ($role->grants as $line) {
                $path = Str::after($line, ' ON ');
                $selects[$path] = 'SELECT * FROM '.(isset($role->views[$path]) ? $named($path) : $path);
                $expected[$path] = $role->views[$path] ?? "SELECT * FROM {$path}";
            }
            foreach ($policy->catalog->tables as $table) {
                $path = $printer->path(array_slice(ObjectPath::parts($table->path), 1));
                if (ObjectPath::within($table->path, $cluster->slug) && ! isset($selects[$path])) {
                    $closed["closed {$path}"] = "SELECT * FROM {$path}";
                }
            }
            $got = $source->tryAs($named($role->name), $selects + $closed);
            $due = $source->tryAsKeeper($expected);
            foreach ($selects as $path => $_) {
                $holds = $got[$path]['error'] === null && $got[$path]['digest'] === $due[$path]['digest'];
                $lines[] = [
                    'role' => $role->name,
                    'people' => count($role->people),
                    'object' => str_replace('`', '', $path),
                    'expected' => "{$due[$path]['rows']} rows".(isset($role->views[$path]) ? ', masked or filtered' : ''),
                    'got' => $got[$path]['error'] ?? "{$got[$path]['rows']} rows".($holds ? ', all equal' : ', not the same'),
                    'holds' => $holds,
                ];
            }
            foreach ($closed as $name => $_) {
                $holds = $got[$name]['error'] !== null;
                $lines[] = [
                    'role' => $role->name,
                    'people' => count($role->people),
                    'object' => str_replace('`', '', substr($name, 7)),
                    'expected' => 'refused',
                    'got' => $holds ? 'refused' : "{$got[$name]['rows']} rows",
                    'holds' => $holds,
                ];
            }
        }

        return $lines;
    }

    /**
     * @param  list<array{role: string, people: int, object: string, expected: string, got: string, holds: bool}>  $lines
     */
    private function keep(Change $change, string $kind, array $lines, string $by, string $where): void
    {
        $holds = array_filter($lines, static fn (array $line): bool => ! $line['holds']) === [];
        $right = count(array_filter($lines, static fn (array $line): bool => $line['holds']));
        ProofRecord::query()->create([
            'change_id' => $change->id,
            'kind' => $kind,
            'body' => 'written',
            'made_us' => Clock::microseconds(),
            'made_by' => $by,
            'factor' => 1.0,
            'holds' => $holds,
            'sentence' => 'A test user signed in with '.
                count(array_unique(array_column($lines, 'role'))).
                ' roles: '.
                $right.
                ' of '.
                count($lines).
                ' selects gave what the policy says',
            'conditions' => [
                'where' => "{$change->cluster->name}, {$where}",
                'how' => 'a test user is made, given one role, signs in, selects, and is dropped; rows are compared with what the '
                    .'policy allows, read with all rights',
            ],
            'measured' => json_encode($lines, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE),
        ]);
        if (! $holds && $kind === 'applied') {
            throw new SourceError(
                'A test user did not get what the policy says; see the proof. The roles and views are there: undo the change, or fix '
                    .'the policy.',
            );
        }
    }

    private function policy(): Policy
    {
        return $this->store->compile($this->store->published());
    }

    /** A server a policy can be written out to; null when it takes none. */
    public function server(Cluster $cluster): ?AccessSource
    {
        return $this->clusters->as(Actor::system(SystemActor::Policy, 'the policy written out'))->access($cluster);
    }

    private function source(Cluster $cluster): AccessSource
    {
        return $this->server($cluster) ??
            throw new SourceError("{$cluster->name} takes no policy: it keeps no accounts that could be written from here.");
    }
}
