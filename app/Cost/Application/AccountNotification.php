<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\ForOutbox;

/**
 * A statement of account on its way to whoever is to get it.
 */
final class AccountNotification extends ForOutbox
{
    /**
     * @param  list<array{name: string, type: string, content: string}>  $files
     */
    public function __construct(
        private readonly string $team,
        private readonly string $month,
        private readonly string $sentence,
        private readonly array $files,
    ) {
    }

    public function toOutbox(?Subscription $subscription): array
    {
        return [
            "Statement of account of {$this->team}, {$this->month}",
            "{$this->sentence}.\n\nThe statement of account is attached, as a PDF and as one HTML file that needs nothing else.\n\n"
                .config('app.url').address('team.show').'?team='.rawurlencode($this->team)."\n",
        ];
    }

    /** It tells what a team costs, which not everybody may see. */
    public function ability(): string
    {
        return 'price';
    }

    public function files(): array
    {
        return $this->files;
    }
}
