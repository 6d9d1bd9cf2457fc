<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Proofs\ProofBody;
use App\Platform\Support\Clock;
use Fulcrion\Core\Proofs\Check;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $change_id
 * @property string $kind rehearsal or applied
 * @property int $made_us
 * @property string $made_by
 * @property array<string, string> $conditions
 * @property string $measured
 * @property string $body time, access, written or job: what is compared
 * @property string $sentence
 * @property float $factor
 * @property bool $holds
 * @property array<int, array<string, mixed>>|null $differences line of the proof => the first rows that differ, and where they were read
 * @property list<array{statement: string, text: string, executions: float|null, reason: string}>|null $unmeasured
 * @property array<string, float|int>|null $costs what making it took
 * @property-read Change $change
 */
final class ProofRecord extends Model
{
    public $timestamps = false;

    protected $table = 'proofs';

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return [
            'conditions' => 'array',
            'unmeasured' => 'array',
            'costs' => 'array',
            'factor' => 'float',
            'holds' => 'bool',
            'differences' => 'encrypted:array',
        ];
    }

    /**
     * @return BelongsTo<Change, $this>
     */
    public function change(): BelongsTo
    {
        return $this->belongsTo(Change::class);
    }

    public function proof(): Proof
    {
        return new Proof(
            array_map(
                static fn (array $line): ProofLine => new ProofLine(
                    $line['statement'],
                    $line['text'],
                    (float) $line['executions'],
                    Measured::fromArray($line['before']),
                    Measured::fromArray($line['after']),
                ),
                array_values((array) json_decode($this->measured, true)),
            ),
        );
    }

    /**
     * Keeps what statements took before and after a change.
     *
     * @param  string  $kind rehearsal or applied
     * @param  array<string, string>  $conditions
     * @param  array<int, array<string, mixed>>  $differences answers that differ, by line
     * @param  list<array{statement: string, text: string, executions: float|null, reason: string}>  $unmeasured statements that use the
     *     object and were not measured
     * @param  array<string, float|int>  $costs what making it took
     */
    public static function keep(
        Change $change,
        string $kind,
        Proof $proof,
        string $by,
        array $conditions,
        array $differences = [],
        array $unmeasured = [],
        array $costs = [],
    ): void {
        self::query()->create(($differences === [] ? [] : ['differences' => $differences]) + [
            'change_id' => $change->id,
            'kind' => $kind,
            'made_us' => Clock::microseconds(),
            'made_by' => $by,
            'conditions' => $conditions,
            'unmeasured' => $unmeasured === [] ? null : $unmeasured,
            'costs' => $costs === [] ? null : $costs,
            'measured' => self::pack($proof),
            'sentence' => $proof->sentence(),
            'factor' => $proof->factor(),
            'holds' => $proof->holds(),
        ]);
    }

    /**
     * Keeps what was read or tried after a change, held against what was expected.
     *
     * @param  string  $kind rehearsal or applied
     * @param  string  $body how it is shown
     * @param  list<array{what: string, expected: string, got: string, holds: bool}>  $lines
     * @param  array<string, string>  $conditions
     */
    public static function keepChecks(
        Change $change,
        string $kind,
        string $body,
        array $lines,
        string $by,
        string $sentence,
        array $conditions,
    ): void {
        self::query()->create([
            'change_id' => $change->id,
            'kind' => $kind,
            'body' => $body,
            'made_us' => Clock::microseconds(),
            'made_by' => $by,
            'factor' => 1.0,
            'holds' => Check::held($lines) === count($lines),
            'sentence' => $sentence,
            'conditions' => $conditions,
            'measured' => json_encode($lines, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE),
        ]);
    }

    private static function pack(Proof $proof): string
    {
        return json_encode(
            array_map(
                static fn (ProofLine $line): array => [
                    'statement' => $line->statement,
                    'text' => $line->text,
                    'executions' => $line->executionsPerWeek,
                    'before' => $line->before->toArray(),
                    'after' => $line->after->toArray(),
                ],
                $proof->lines,
            ),
            JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE,
        );
    }

    /** How it is shown; null where times of statements are held against each other. */
    public function shownBy(): ?ProofBody
    {
        return $this->body === 'time' ? null : app(ChangeKinds::class)->body($this->body);
    }

    /** In words, what came of its results. */
    public function results(): string
    {
        $body = $this->shownBy();

        return $body !== null
            ? ($body->results)($this)
            : ($this->holds
                ? 'all equal that could be compared, none failed'
                : 'not all equal, or a statement failed: see below');
    }
}
