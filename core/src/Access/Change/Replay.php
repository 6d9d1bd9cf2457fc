<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Sql\Ast\Statement;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * Asks of statements that were really run what two policies say to them. People who stand alike are asked for once.
 */
final class Replay
{
    /** @var array<string, array{string, string, string}> outcome, what is run, in words: the decisions themselves would fill the memory */
    private array $decided = [];

    /** @var array<string, Statement|null> null for what cannot be read */
    private array $statements = [];

    /** @var array<string, string> */
    private array $standings = [];

    public function __construct(
        private readonly Policy $before,
        private readonly Policy $after,
        private readonly Dialect $dialect = Dialect::Ansi,
    ) {
    }

    /**
     * @param  iterable<AskedQuery>  $asked
     * @return array{changed: list<Replayed>, executions: int, statements: int, same: array<string, int>} what changes,
     *     most often first; executions by outcome where nothing does
     *
     * @throws SyntaxError
     */
    public function run(iterable $asked): array
    {
        $changed = $same = [];
        $executions = $statements = 0;
        foreach ($asked as $one) {
            $statements++;
            $executions += $one->executions;
            $old = $this->decide($this->before, 'before', $one);
            $new = $this->decide($this->after, 'after', $one);
            if ($old[0] === $new[0] && $old[1] === $new[1]) {
                $same[$new[0]] = ($same[$new[0]] ?? 0) + $one->executions;
            } else {
                $changed[] = new Replayed($one, $old[0], $new[0], $new[2]);
            }
        }
        usort(
            $changed,
            static fn (Replayed $a, Replayed $b): int => [$b->isWorse(), $b->asked->executions, $a->asked->statement] <=> [
                $a->isWorse(),
                $a->asked->executions,
                $b->asked->statement,
            ],
        );

        return ['changed' => $changed, 'executions' => $executions, 'statements' => $statements, 'same' => $same];
    }

    /**
     * @return array{string, string, string}
     *
     * @throws SyntaxError
     */
    private function decide(Policy $policy, string $which, AskedQuery $one): array
    {
        $standing = $this->standings["{$which} {$one->subject}"] ??= BlastRadius::standingOf($policy->reader($one->subject));

        return $this->decided["{$which} {$standing} {$one->cluster} {$one->schema} {$one->sql}"] ??= $this->fresh($policy, $one);
    }

    /**
     * @return array{string, string, string}
     *
     * @throws SyntaxError
     */
    private function fresh(Policy $policy, AskedQuery $one): array
    {
        $decider = new StatementDecider(
            $policy,
            $policy->reader($one->subject),
            $one->cluster,
            $one->schema,
            $this->dialect,
            new Masking($this->dialect),
        );
        if (! array_key_exists($one->sql, $this->statements)) {
            try {
                $this->statements[$one->sql] = (new Parser($this->dialect))->statement($one->sql);
            } catch (SyntaxError) {
                $this->statements[$one->sql] = null;
            }
        }
        $statement = $this->statements[$one->sql];

        $decision = $statement === null ? $decider->decide($one->sql) : $decider->decideRead($one->sql, $statement);

        return [
            $decision->outcome(),
            (string) $decision->rewritten,
            $decision->isAllowed() ? implode(' ', $decision->notes) : $decision->sentence(),
        ];
    }
}
