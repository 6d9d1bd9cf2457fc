<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use App\Cost\Application\CostRule;
use Fulcrion\Core\Cost\IdleRule;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to CostController::rule().
 */
final class SetCostRuleRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'currency' => ['required', 'string', 'regex:~^[A-Z]{3}$~'],
            'follows' => ['required', Rule::in(array_map(static fn (UsageMeasure $one): string => $one->value, CostRule::FOLLOWS))],
            'idle' => ['required', Rule::enum(IdleRule::class)],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'currency.*' => 'A currency is three capitals, as EUR.',
            'follows.*' => 'Choose what the cost follows.',
            'idle.*' => 'Choose where idle time goes.',
        ];
    }
}
