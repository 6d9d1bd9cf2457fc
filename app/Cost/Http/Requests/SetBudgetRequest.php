<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use App\Cost\Application\TeamAccounts;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Cost\BudgetPeriod;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to BudgetController::set().
 */
final class SetBudgetRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'of' => ['required', 'string', Rule::in([
                'estate',
                ...array_map(static fn (string $team): string => "team:{$team}", TeamAccounts::teams()),
                ...Cluster::query()->pluck('slug')->map(static fn (string $slug): string => "cluster:{$slug}")->all(),
            ])],
            'period' => ['required', Rule::enum(BudgetPeriod::class)],
            'amount' => ['required', 'string', 'regex:~^\d{1,12}(\.\d{1,4})?$~'],
            'currency' => ['required', 'string', 'regex:~^[A-Z]{3}$~'],
            'from' => ['required', 'date_format:Y-m'],
            'shares' => ['nullable', 'string', 'regex:~^\s*\d{1,3}\s*%?(\s*,\s*\d{1,3}\s*%?){0,4}\s*$~'],
            'recipient' => ['nullable', 'email', 'max:190'],
        ];
    }

    /**
     * @return list<int> percentages as they were typed, ascending, each once
     */
    public static function shares(string $text): array
    {
        preg_match_all('~\d+~', $text, $found);
        $shares = array_values(array_unique(array_filter(array_map(intval(...), $found[0]), static fn (int $one): bool => $one > 0)));
        sort($shares);

        return $shares;
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'of.*' => 'Choose a team, a cluster or all clusters.',
            'period.*' => 'A budget is for a month or a quarter.',
            'amount.*' => 'A budget is a number with a point, as 1200.50; 0 ends it.',
            'currency.*' => 'A currency is three capitals, as EUR.',
            'from.*' => 'A budget holds from a month on, as 2026-12.',
            'shares.*' => 'Percentages are up to five numbers with commas, as 50, 80, 100.',
            'recipient.*' => 'Write an address, as ada@example.org, or leave it out.',
        ];
    }
}
