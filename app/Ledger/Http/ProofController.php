<?php

declare(strict_types=1);

namespace App\Ledger\Http;

use App\Ledger\Changes\ChangeState;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\Differences;
use App\Ledger\Proofs\LiveComparison;
use App\Ledger\Proofs\Promise;
use App\Ledger\Proofs\ProofFigure;
use App\Platform\Models\User;
use App\Platform\Support\Export;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;

final readonly class ProofController
{
    public function __construct(private Differences $differences, private Promise $promise)
    {
    }

    public function index(): View
    {
        return view('ledger.proofs', [
            'proofs' => ProofRecord::query()
                ->with(['change', 'change.cluster'])
                ->orderByDesc('id')
                ->simplePaginate(50),
            'count' => ProofRecord::query()->count(),
        ]);
    }

    public function export(string $format): StreamedResponse
    {
        $rows = (static function () {
            foreach (
                ProofRecord::query()
                    ->with(['change', 'change.cluster'])
                    ->orderByDesc('id')
                    ->lazy(100) as $record
            ) {
                assert($record instanceof ProofRecord);
                if ($record->body !== 'time') {
                    yield [
                        'proof' => $record->id,
                        'change' => $record->change_id,
                        'kind' => $record->kind,
                        'cluster' => $record->change->cluster->slug,
                        'object' => $record->change->object,
                        'statement' => $record->sentence,
                        'before_us' => null,
                        'after_us' => null,
                        'before_bytes' => null,
                        'after_bytes' => null,
                        'before_chunks' => null,
                        'after_chunks' => null,
                        'before_sent' => null,
                        'after_sent' => null,
                        'equal' => $record->holds,
                    ];

                    continue;
                }
                foreach ($record->proof()->lines as $line) {
                    yield [
                        'proof' => $record->id,
                        'change' => $record->change_id,
                        'kind' => $record->kind,
                        'cluster' => $record->change->cluster->slug,
                        'object' => $record->change->object,
                        'statement' => $line->statement,
                        'before_us' => $line->before->us(),
                        'after_us' => $line->after->us(),
                        'before_bytes' => $line->before->bytesRead,
                        'after_bytes' => $line->after->bytesRead,
                        'before_chunks' => $line->before->chunksRead,
                        'after_chunks' => $line->after->chunksRead,
                        'before_sent' => $line->before->bytesSent,
                        'after_sent' => $line->after->bytesSent,
                        'equal' => $line->equal(),
                    ];
                }
            }
        })();

        return Export::table($format, 'proofs', $rows);
    }

    public function show(#[CurrentUser] User $reader, ProofRecord $proof, LiveComparison $live): View
    {
        return view('ledger.proof', $this->data($proof, $live) + ['differences' => $this->differences->of($proof, $reader)]);
    }

    /** One file that needs nothing else, to be handed to anyone. */
    public function file(ProofRecord $proof, LiveComparison $live): Response
    {
        return response(
            view('ledger.proof-file', $this->data($proof, $live) + ['differences' => $this->differences->of($proof, null)])->render(),
            200,
            ['Content-Type' => 'text/html; charset=utf-8', 'Content-Disposition' => "attachment; filename=\"proof-{$proof->id}.html\""],
        );
    }

    /**
     * @return array<string, mixed>
     */
    private function data(ProofRecord $proof, LiveComparison $live): array
    {
        $proof->load(['change', 'change.cluster', 'change.finding']);

        if ($proof->body !== 'time') {
            return ['record' => $proof, 'lines' => (array) json_decode($proof->measured, true), 'change' => $proof->change, 'live' => [],
                'promise' => ''];
        }

        return [
            'record' => $proof,
            'proof' => $proof->proof(),
            'figure' => ProofFigure::of($proof->proof()),
            'change' => $proof->change,
            'promise' => $this->promise->shown($proof),
            'live' => $proof->kind === 'applied' && $proof->change->state === ChangeState::Applied ? $live->of($proof->change) : [],
        ];
    }
}
