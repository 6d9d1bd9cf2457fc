<?php

declare(strict_types=1);

namespace App\Limits\Http\Requests;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Limits\AllowanceMeasure;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form sends to AllowanceController::add().
 */
final class AddAllowanceRequest extends FormRequest
{
    private const NUMBER = 'regex:~^\d{1,12}(\.\d{1,6})?$~';

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'cluster' => ['required', 'string', Rule::exists(Cluster::class, 'slug')->whereNull('deleted_at')],
            'measure' => ['required', Rule::enum(AllowanceMeasure::class)],
            'per_day' => ['required', 'string', self::NUMBER],
            'cap' => ['required', 'string', self::NUMBER, 'not_regex:~^0+(\.0+)?$~'],
            'start' => ['nullable', 'string', self::NUMBER],
            'from' => ['required', 'date_format:Y-m-d', 'after:2000-01-01', 'before:2100-01-01'],
            'price' => ['nullable', 'string', self::NUMBER],
            'currency' => ['required', 'string', 'regex:~^[A-Z]{3}$~'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'cluster.*' => 'Choose a cluster.',
            'measure.*' => 'Choose what it is of.',
            'per_day.*' => 'What a day adds is a number with a point, as 1.5.',
            'cap.*' => 'The most that can gather is a number above 0, as 30.',
            'start.*' => 'What there is at first is a number, as 0.',
            'from.*' => 'Write the first day as 2026-11-01.',
            'price.*' => 'A price is a number with a point, as 2.50; leave it empty where it is not known.',
            'currency.*' => 'A currency is three capitals, as EUR.',
        ];
    }
}
