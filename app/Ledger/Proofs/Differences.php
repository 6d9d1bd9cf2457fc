<?php

declare(strict_types=1);

namespace App\Ledger\Proofs;

use App\Estate\Authorization\Clusters;
use App\Estate\Models\Cluster;
use App\Ledger\Models\ProofRecord;
use App\Platform\Models\User;
use Fulcrion\Core\Proofs\AnswerDifference;

/**
 * The rows in which answers of a proof differ, for a person who may see every value of the tables they came from.
 *
 * @phpstan-import-type DifferenceArray from AnswerDifference
 */
final readonly class Differences
{
    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * @param  User|null  $reader null for what is handed to anyone
     * @return array<int, array{difference: AnswerDifference,
     *     closed: list<string>}> by line of the proof; rows are there only where nothing is closed
     */
    public function of(ProofRecord $proof, ?User $reader): array
    {
        $out = [];
        foreach ($proof->differences ?? [] as $line => $kept) {
            /** @var DifferenceArray $values */
            $values = $kept;
            $difference = AnswerDifference::fromArray($values);
            $place = Cluster::query()->find((int) $kept['place']);
            $closed =
                $reader === null
                    ? $difference->tables
                    : array_values(
                        array_filter(
                            $difference->tables,
                            fn (string $table): bool => ! $this->isOpen(
                                $reader,
                                $table,
                                $proof->change->cluster,
                                $table === $proof->change->object ? null : $place,
                            ),
                        ),
                    );
            $out[$line] = [
                'difference' => $closed === []
                        ? $difference
                        : new AnswerDifference(
                            $difference->columns,
                            [],
                            [],
                            $difference->onlyBefore,
                            $difference->onlyAfter,
                            $difference->tables,
                        ),
                'closed' => $closed,
            ];
        }

        return $out;
    }

    /** Other tables are read where the statement was run, which a rehearsal does on another cluster. */
    private function isOpen(User $reader, string $table, Cluster $home, ?Cluster $place): bool
    {
        return $this->clusters->visibility($reader, $home)->isPlain($table) &&
            ($place === null || $place->id === $home->id || $this->clusters->visibility($reader, $place)->isPlain($table));
    }
}
