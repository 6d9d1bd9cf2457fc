<?php

declare(strict_types=1);

namespace App\Ledger\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Support\Facades\Gate;

/**
 * What a form or a caller sends to FindingController::dismiss().
 */
final class DismissFindingRequest extends FormRequest
{
    /** Before a word is said of the fields. */
    public function authorize(): bool
    {
        return Gate::allows('decide', $this->route('finding'));
    }

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['reason' => ['required', 'string', 'min:3', 'max:1000'], 'until' => ['required', 'date_format:Y-m-d']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'reason.required' => 'Say why this may stay as it is; whoever looks next will want to know.',
            'reason.min' => 'Say why in a few words.',
            'until.required' => 'Say until when; then it is looked at again.',
            'until.date_format' => 'The date is written like 2027-01-31.',
        ];
    }
}
